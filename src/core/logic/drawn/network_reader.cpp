#include "core/logic/drawn/network_reader.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <optional>
#include <span>

#include "core/logic/drawn/lines.hpp"
#include "core/logic/drawn/rung_line.hpp"

namespace vyard::logic {

using base::Code;

namespace {

/// Reads the rows of one network.
class NetworkReader {
  public:
    NetworkReader(const Grid& grid, Rows rows, DrawnForm form, const base::SourcePtr& source,
                  base::Diagnostics& diagnostics)
        : grid_(grid),
          rows_(rows),
          form_(form),
          source_(source),
          diagnostics_(diagnostics),
          shapes_(grid, rows, form),
          lines_(grid, rows, shapes_) {}

    /// False after a report.
    bool read(Network& out) {
        if (form_ == DrawnForm::Ladder && shapes_.left_rail() < 0) {
            error(grid_.span(rows_.first, std::max(grid_.first(rows_.first), 0)), "this rung has no left rail",
                  "a rung starts with '|' or '+' at its left");
            return false;
        }
        for (const auto& [row, column] : shapes_.crooked)
            error(grid_.span(row, column), "the side of this box is not straight",
                  "its corners stand above one another, with '|' between them");
        elements_ = shapes_.elements;  // the lines go on asking the shapes what stands where
        line_ends();
        for (DrawnElement& e : elements_) {
            if (e.kind == ElementKind::Contact || e.kind == ElementKind::Coil) symbol(e);
        }
        for (DrawnElement& e : elements_) {
            if (e.kind == ElementKind::Box && e.height > 0) box(e);
        }
        for (const auto& [row, column] : lines_.broken)
            error(grid_.span(row, column), "this line ends nowhere", "'+' joins lines, '|' and '-' that meet do not");
        for (const Word& word : shapes_.words) {
            if (!word.claimed && shapes_.crooked.empty())
                error(text(word).span, fmt::format("'{}' belongs to nothing", text(word).text),
                      "a name stands on the row above its symbol, a value at the end of a line");
        }
        if (bad_) return false;
        make_nets(out);
        check_nets(out);
        return !bad_;
    }

  private:
    void error(Span span, std::string message, std::string hint = {}) {
        diagnostics_.error(Code::Syntax, place_in(source_, span), std::move(message), std::move(hint));
        bad_ = true;
    }
    DrawnText text(const Word& word) const { return grid_.text(word.row, word.begin, word.end); }

    /// The words of a row, from left to right.
    std::span<Word> words_of(int row) {
        const auto before = [](const Word& w, int r) { return w.row < r; };
        const auto first = std::lower_bound(shapes_.words.begin(), shapes_.words.end(), row, before);
        const auto last = std::lower_bound(first, shapes_.words.end(), row + 1, before);
        return {first, last};
    }

    // --- what stands at the ends of lines ---

    static constexpr int kAnyGap = 1 << 20;

    void line_ends() {
        // Those that stand right at a line first; what is left over may be meant for a line some blanks away.
        std::vector<LooseEnd> far;
        for (const LooseEnd& end : lines_.loose) {
            if (!take_end(end, 1)) far.push_back(end);
        }
        for (const LooseEnd& end : far) {
            if (take_end(end, kAnyGap) || behind_last_coil(end)) continue;
            error(grid_.span(end.row, end.column), "this line ends nowhere",
                  form_ == DrawnForm::Ladder ? "lead it to a rail, a '+', a symbol or a value"
                                             : "lead it to a '+', a box or a value");
        }
    }

    /// Where the right rail is left out, the line behind a coil need not lead anywhere.
    bool behind_last_coil(const LooseEnd& end) const {
        if (form_ != DrawnForm::Ladder || end.left || shapes_.right_rail() >= 0) return false;
        int c = end.column;
        while (shapes_.use(end.row, c) == Shapes::Use::Line && grid_.at(end.row, c).horizontal()) --c;
        const int number = shapes_.owner(end.row, c);
        return number >= 0 && elements_[static_cast<std::size_t>(number)].kind == ElementKind::Coil;
    }

    /// The free words that stand beside a loose end, at most `gap` blanks away and one blank apart.
    bool take_end(const LooseEnd& end, int gap) {
        std::vector<Word*> row;
        for (Word& w : words_of(end.row)) {
            if (!w.claimed) row.push_back(&w);
        }
        if (end.left) std::reverse(row.begin(), row.end());
        int begin = -1, stop = -1;
        std::vector<Word*> taken;
        for (Word* w : row) {
            const int distance =
                end.left ? (begin < 0 ? end.column : begin) - w->end : w->begin - (begin < 0 ? end.column + 1 : stop);
            if (distance < 0) continue;
            if (distance > (begin < 0 ? gap : 1) || !blank_between(*w, end, begin, stop)) break;
            begin = begin < 0 ? w->begin : std::min(begin, w->begin);
            stop = std::max(stop, w->end);
            taken.push_back(w);
        }
        if (taken.empty()) return false;
        for (Word* w : taken) w->claimed = true;
        end_element(end, begin, stop);
        return true;
    }

    bool blank_between(const Word& w, const LooseEnd& end, int begin, int stop) const {
        const int from = end.left ? w.end : (begin < 0 ? end.column + 1 : stop);
        const int to = end.left ? (begin < 0 ? end.column : begin) : w.begin;
        for (int c = from; c < to; ++c) {
            if (!grid_.at(end.row, c).blank()) return false;
        }
        return true;
    }

    void end_element(const LooseEnd& end, int begin, int stop) {
        DrawnElement e;
        e.row = end.row;
        e.column = begin;
        e.width = stop - begin;
        e.name = grid_.text(end.row, begin, stop);
        e.span = e.name.span;
        e.kind = end.left ? ElementKind::Source : ElementKind::Target;
        const std::string& written = e.name.text;
        const bool arrows = written.size() > 2 && written.front() == '>' && written.back() == '>';
        if (!end.left && written.starts_with(">>")) {
            e.kind = ElementKind::Jump;
            cut(e.name, 2, 0);
            if (e.name.empty()) error(e.span, "this jump names no label");
        } else if (arrows) {
            e.kind = end.left ? ElementKind::Enter : ElementKind::Leave;
            cut(e.name, 1, 1);
        } else if (!end.left && base::fold(written) == "<return>") {
            e.kind = ElementKind::Return;
        }
        DrawnPin pin;
        pin.output = end.left;
        pin.net = lines_.line_at(end.row, end.column, end.left ? kRight : kLeft);
        pin.column = end.column;
        e.pins.push_back(std::move(pin));
        elements_.push_back(std::move(e));
    }

    static void cut(DrawnText& t, std::size_t front, std::size_t back) {
        std::string_view rest = t.text;
        rest.remove_prefix(front);
        rest.remove_suffix(back);
        while (rest.starts_with(' ')) {
            rest.remove_prefix(1);
            ++front;
        }
        while (rest.ends_with(' ')) rest.remove_suffix(1);
        t.offset += front;
        t.span.column += static_cast<int>(front);
        t.span.length = std::max<int>(1, static_cast<int>(rest.size()));
        t.text = std::string(rest);
    }

    // --- contacts and coils ---

    /// The free word on `row` that stands over columns [begin, end), over their middle if several do.
    std::optional<DrawnText> name_at(int row, int begin, int end) {
        Word* best = nullptr;
        const int middle = begin + (end - begin) / 2;
        const auto off = [&](const Word& w) {
            return middle < w.begin ? w.begin - middle : middle >= w.end ? middle - w.end + 1 : 0;
        };
        for (Word& w : words_of(row)) {
            if (w.claimed || w.end <= begin || w.begin >= end) continue;
            if (best == nullptr || off(w) < off(*best)) best = &w;
        }
        if (best == nullptr) return std::nullopt;
        best->claimed = true;
        return text(*best);
    }

    void symbol(DrawnElement& e) {
        const int end = e.column + e.width;
        const bool contact = e.kind == ElementKind::Contact;
        if (auto found = name_at(e.row - 1, e.column, end)) {
            e.name = std::move(*found);
        } else {
            error(e.span, fmt::format("this {} has no name", contact ? "contact" : "coil"),
                  "the name stands on the row above, over the middle of the symbol");
        }
        if (e.contact == ContactKind::Compare && contact) {
            if (auto found = name_at(e.row + 1, e.column, end)) {
                e.second = std::move(*found);
            } else {
                error(e.span, "this comparison has no second value", "it stands on the row below the contact");
            }
        }
        for (const bool right : {false, true}) {
            DrawnPin pin;
            pin.output = right;
            pin.column = right ? end : e.column - 1;
            pin.net = lines_.line_at(e.row, pin.column, right ? kLeft : kRight);
            if (form_ == DrawnForm::Blocks) continue;
            const bool needed = !right || contact;
            if (pin.net < 0 && needed)
                error(e.span, fmt::format("this {} has no line at its {}", contact ? "contact" : "coil",
                                          right ? "right" : "left"));
            e.pins.push_back(std::move(pin));
        }
        if (form_ == DrawnForm::Blocks)
            error(e.span, fmt::format("a {} stands in a LADDER, not in an FBD", contact ? "contact" : "coil"));
    }

    // --- boxes ---

    struct PinPlace {
        bool attached = false;
        bool negated = false;
        PinEdge edge = PinEdge::None;
        int column = 0;  ///< Of the line's end.
        int net = -1;
    };

    PinPlace pin_place(const DrawnElement& e, int row, bool left) const {
        PinPlace out;
        const int step = left ? -1 : 1;
        out.column = left ? e.column - 1 : e.column + e.width;
        const int number = shapes_.owner(row, out.column);
        const bool marked = shapes_.use(row, out.column) == Shapes::Use::Shape && number >= 0 &&
                            number == shapes_.owner(row, left ? e.column : e.column + e.width - 1);
        if (marked) {
            const char mark = grid_.at(row, out.column).character;
            out.negated = mark == 'o' || mark == 'O';
            out.edge = mark == '>' ? PinEdge::Rising : mark == '<' ? PinEdge::Falling : PinEdge::None;
            out.column += step;
        }
        out.net = lines_.line_at(row, out.column, left ? kRight : kLeft);
        out.attached = out.net >= 0;
        return out;
    }

    /// The words of a box on one row.
    std::vector<Word> inside(const DrawnElement& e, int row) const {
        std::vector<Word> out;
        for (int c = e.column + 1; c < e.column + e.width - 1; ++c) {
            if (grid_.at(row, c).blank()) continue;
            if (!out.empty() && out.back().end == c) {
                out.back().end = c + 1;
            } else {
                out.push_back({row, c, c + 1, false});
            }
        }
        return out;
    }

    void box(DrawnElement& e) {
        const int first = e.row + 1, last = e.row + e.height - 1;
        const bool pins_first = pin_place(e, first, true).attached || pin_place(e, first, false).attached;
        const int end = e.column + e.width;
        int above = e.row - 1;
        bool type_row = !pins_first;
        if (!pins_first) {
            e.type = grid_.text(first, e.column + 1, end - 1);
        } else if (auto found = name_at(above, e.column, end)) {
            e.type = std::move(*found);
            --above;
        } else if (const std::vector<Word> words = inside(e, first); words.size() == 1) {
            e.type = text(words[0]);  // on the row of the first pins, which have no names then
            add_pin(e, pin_place(e, first, true), std::nullopt, first, false);
            add_pin(e, pin_place(e, first, false), std::nullopt, first, true);
            type_row = true;
        }
        if (e.type.empty()) {
            error(e.span, "this box has no type", "it stands on the first row inside the box");
            return;
        }
        if (auto found = name_at(above, e.column, end)) e.name = std::move(*found);
        for (int row = type_row ? first + 1 : first; row < last; ++row) pins(e, row);
    }

    void pins(DrawnElement& e, int row) {
        std::vector<Word> words = inside(e, row);
        const PinPlace left = pin_place(e, row, true), right = pin_place(e, row, false);
        if (words.size() > 2) {
            error(grid_.span(row, words[2].begin, words[2].end - words[2].begin),
                  "a row of a box names one pin at its left and one at its right");
            return;
        }
        std::optional<Word> name_left, name_right;
        if (words.size() == 2) {
            name_left = words[0];
            name_right = words[1];
        } else if (words.size() == 1) {
            const int to_left = words[0].begin - e.column - 1;
            const int to_right = e.column + e.width - 1 - words[0].end;
            const bool at_left = to_left != to_right ? to_left < to_right : left.attached || !right.attached;
            (at_left ? name_left : name_right) = words[0];
        }
        add_pin(e, left, name_left, row, false);
        add_pin(e, right, name_right, row, true);
    }

    void add_pin(DrawnElement& e, const PinPlace& place, const std::optional<Word>& name, int row, bool output) {
        if (!place.attached && !name) return;
        DrawnPin pin;
        pin.output = output;
        pin.negated = place.negated;
        pin.edge = place.edge;
        pin.net = place.net;
        pin.column = place.column;
        if (name) {
            pin.name = text(*name);
            // An edge may be marked within the side too.
            if (!output && (pin.name.text.front() == '>' || pin.name.text.front() == '<')) {
                pin.edge = pin.name.text.front() == '>' ? PinEdge::Rising : PinEdge::Falling;
                cut(pin.name, 1, 0);
            }
        } else {
            pin.name.span = grid_.span(row, output ? e.column + e.width - 1 : e.column);
        }
        e.pins.push_back(std::move(pin));
    }

    // --- nets ---

    void make_nets(Network& out) {
        std::map<int, int> numbers;
        const auto net_of = [&](int line) {
            const auto [at, fresh] = numbers.emplace(line, static_cast<int>(out.nets.size()));
            if (fresh) {
                out.nets.emplace_back();
                out.nets.back().power = form_ == DrawnForm::Ladder && line == lines_.left_rail();
            }
            return at->second;
        };
        if (form_ == DrawnForm::Ladder) {
            net_of(lines_.left_rail());
            if (shapes_.right_rail() >= 0) right_rail_ = net_of(lines_.right_rail());
            if (right_rail_ == 0) {
                error(grid_.span(rows_.first, shapes_.left_rail()),
                      "a line leads from rail to rail with nothing in it");
                return;
            }
        }
        std::stable_sort(elements_.begin(), elements_.end(), [](const DrawnElement& a, const DrawnElement& b) {
            return std::pair(a.row, a.column) < std::pair(b.row, b.column);
        });
        for (std::size_t i = 0; i < elements_.size(); ++i) {
            for (std::size_t p = 0; p < elements_[i].pins.size(); ++p) {
                DrawnPin& pin = elements_[i].pins[p];
                if (pin.net < 0) continue;
                pin.net = net_of(pin.net);
                DrawnNet& net = out.nets[static_cast<std::size_t>(pin.net)];
                if (net.from.empty() && net.to.empty()) net.span = elements_[i].span;
                (pin.output ? net.from : net.to).push_back({static_cast<int>(i), static_cast<int>(p)});
            }
        }
        out.elements = std::move(elements_);
        const auto known = [&](int line) {
            const auto found = numbers.find(line);
            return found == numbers.end() ? -1 : found->second;
        };
        for (int r = rows_.first; r < rows_.last; ++r) {
            for (int c = 0; c < grid_.width(r); ++c) {
                const auto [across, upright] = lines_.lines_of(r, c);
                if (across >= 0) out.cells.push_back({r, c, known(across), known(upright), lines_.sides(r, c)});
            }
        }
    }

    const DrawnElement& at(const Network& n, const NetEnd& end) const {
        return n.elements[static_cast<std::size_t>(end.element)];
    }
    const DrawnPin& pin(const Network& n, const NetEnd& end) const {
        return at(n, end).pins[static_cast<std::size_t>(end.pin)];
    }
    static bool takes_power(const DrawnElement& e) {
        return e.kind == ElementKind::Coil || e.kind == ElementKind::Jump || e.kind == ElementKind::Return;
    }

    void check_nets(const Network& n) {
        for (std::size_t i = 0; i < n.nets.size(); ++i) {
            const DrawnNet& net = n.nets[i];
            const bool right = static_cast<int>(i) == right_rail_;
            if (right) {
                check_right_rail(n, net);
            } else if (net.from.empty() && !net.power) {
                error(net.span, "this line comes from nowhere",
                      form_ == DrawnForm::Ladder ? "nothing joins it to the left rail or to an output" : "");
            } else if (net.to.empty() && !net.power && !ends_in_coils(n, net)) {
                error(net.span, form_ == DrawnForm::Ladder ? "this rung drives nothing" : "this line leads nowhere",
                      form_ == DrawnForm::Ladder ? "end it with a coil, a box or a jump" : "");
            }
            if (!right) check_sources(n, net);
        }
        if (form_ == DrawnForm::Ladder) check_ladder(n);
        if (n.elements.empty() && !bad_) error(n.span, "nothing is drawn here");
    }

    bool ends_in_coils(const Network& n, const DrawnNet& net) const {
        return std::all_of(net.from.begin(), net.from.end(),
                           [&](const NetEnd& e) { return at(n, e).kind == ElementKind::Coil; });
    }

    /// What may stand at the right rail: coils, and outputs of boxes that nobody needs.
    void check_right_rail(const Network& n, const DrawnNet& net) {
        for (const NetEnd& end : net.from) {
            if (at(n, end).kind == ElementKind::Contact)
                error(at(n, end).span, "this rung drives nothing",
                      "a coil is missing between this contact and the right rail");
        }
        for (const NetEnd& end : net.to)
            error(at(n, end).span, "power comes from the right rail here", "power flows from left to right");
    }

    void check_sources(const Network& n, const DrawnNet& net) {
        if (net.power && !net.from.empty()) {
            error(at(n, net.from[0]).span, "power flows back to the left rail from here",
                  "power flows from left to right; lead this line to a coil");
            return;
        }
        if (net.from.size() < 2) return;
        for (std::size_t i = 0; i < net.from.size(); ++i) {
            const bool flow = form_ == DrawnForm::Ladder && at(n, net.from[i]).kind != ElementKind::Source;
            if (flow) continue;
            const NetEnd& other = net.from[i == 0 ? 1 : 0];
            error(at(n, net.from[i]).span,
                  fmt::format("two outputs are joined here: '{}' and '{}'", shown(n, other), shown(n, net.from[i])),
                  "join them with an OR box");
            return;
        }
    }

    std::string shown(const Network& n, const NetEnd& end) const {
        const DrawnElement& e = at(n, end);
        if (e.kind != ElementKind::Box) return e.name.text;
        const std::string& name = e.name.empty() ? e.type.text : e.name.text;
        return pin(n, end).name.empty() ? name : name + "." + pin(n, end).name.text;
    }

    void check_ladder(const Network& n) {
        for (const DrawnNet& net : n.nets) {
            for (const NetEnd& from : net.from) {
                if (at(n, from).kind == ElementKind::Coil) behind_coil(n, net, from);
            }
            check_direction(n, net);
        }
        for (const DrawnElement& e : n.elements) {
            if (e.kind != ElementKind::Coil || right_rail_ < 0 || e.pins.size() < 2 || bad_) continue;
            if (!reaches_rail(n, e, 0))
                error(e.span, fmt::format("the coil '{}' does not reach the right rail", e.name.text));
        }
    }

    void behind_coil(const Network& n, const DrawnNet& net, const NetEnd& coil) {
        for (const NetEnd& to : net.to) {
            if (takes_power(at(n, to))) continue;
            const bool contact = at(n, to).kind == ElementKind::Contact;
            error(at(n, to).span,
                  fmt::format("a {} stands behind the coil '{}'", contact ? "contact" : "box", at(n, coil).name.text),
                  "coils end a rung; use the coil's name in a rung below");
        }
    }

    bool reaches_rail(const Network& n, const DrawnElement& coil, int depth) const {
        const int net = coil.pins[1].net;
        if (net == right_rail_) return true;
        if (net < 0 || depth > 50) return false;
        const DrawnNet& behind = n.nets[static_cast<std::size_t>(net)];
        return std::any_of(behind.to.begin(), behind.to.end(), [&](const NetEnd& to) {
            const DrawnElement& e = at(n, to);
            return e.kind == ElementKind::Jump || e.kind == ElementKind::Return ||
                   (e.kind == ElementKind::Coil && e.pins.size() > 1 && reaches_rail(n, e, depth + 1));
        });
    }

    /// Power flows from left to right: a line that would lead it back to the left is a bridge.
    void check_direction(const Network& n, const DrawnNet& net) {
        const auto named = [&](const NetEnd& e) {
            return at(n, e).kind == ElementKind::Leave || at(n, e).kind == ElementKind::Enter;
        };
        const NetEnd* source = nullptr;
        for (const NetEnd& from : net.from) {
            if (!named(from) && (source == nullptr || pin(n, from).column > pin(n, *source).column)) source = &from;
        }
        if (source == nullptr) return;
        for (const NetEnd& to : net.to) {
            if (named(to) || pin(n, to).column >= pin(n, *source).column) continue;
            error(at(n, to).span,
                  fmt::format("power would flow backwards from '{}' to '{}'", shown(n, *source), shown(n, to)),
                  "power flows from left to right only; draw what this line is for as a rung of its own");
            return;
        }
    }

    const Grid& grid_;
    Rows rows_;
    DrawnForm form_;
    const base::SourcePtr& source_;
    base::Diagnostics& diagnostics_;
    Shapes shapes_;
    Lines lines_;
    std::vector<DrawnElement> elements_;
    int right_rail_ = -1;
    bool bad_ = false;
};

/// Divides a drawing into networks.
class DrawingReader {
  public:
    DrawingReader(Drawing& drawing, const base::SourcePtr& source, base::Diagnostics& diagnostics)
        : drawing_(drawing),
          source_(source),
          diagnostics_(diagnostics),
          grid_(drawing.text, drawing.offset, drawing.span.line + 1) {}

    void read() {
        for (int r = 0; r < grid_.rows(); ++r) {
            if (grid_.width(r) <= kMostColumns) continue;
            too_large(grid_.span(r, kMostColumns),
                      fmt::format("a row of a drawing has {} characters at most", kMostColumns));
            return;
        }
        for (int r = 0; r < grid_.rows(); ++r) {
            const int first = grid_.first(r);
            if (first < 0) {
                end_network(r);
                comment(r);
            } else if (rung_line(r)) {
                end_network(r);
                written_rung(r);
            } else if (auto label = label_of(r)) {
                end_network(r);
                if (!label_.empty())
                    diagnostics_.error(Code::Syntax, place_in(source_, label->span), "a network has one label");
                label_ = std::move(*label);
            } else if (bare_rails(r)) {
                end_network(r);
                title_.clear();
            } else if (begin_ < 0) {
                begin_ = r;
            }
        }
        end_network(grid_.rows());
        if (!label_.empty()) drawing_.labels_behind.push_back(label_);
    }

  private:
    void too_large(Span span, std::string message) {
        diagnostics_.error(Code::TooDeep, place_in(source_, span), std::move(message), "blank lines divide networks");
    }
    void comment(int row) {
        if (!grid_.commented(row)) {
            title_.clear();
            return;
        }
        const std::string& text = grid_.comment(row);
        if (!text.empty()) title_ += (title_.empty() ? "" : "\n") + text;
    }

    bool rung_line(int row) const {
        return drawing_.form == DrawnForm::Ladder &&
               is_rung_line(grid_.text(row, grid_.first(row), grid_.width(row)).text);
    }

    void written_rung(int row) {
        Network network = begun(row, row + 1);
        const DrawnText text = grid_.text(row, grid_.first(row), grid_.width(row));
        if (!read_rung_line(text, row, network, source_, diagnostics_)) {
            network.elements.clear();
            network.nets.clear();
        }
        drawing_.networks.push_back(std::move(network));
    }

    /// "NAME:" alone on its row.
    std::optional<DrawnText> label_of(int row) const {
        int begin = grid_.first(row), end = grid_.width(row);
        while (begin < end && (grid_.at(row, begin).blank() || grid_.at(row, begin).vertical())) ++begin;
        while (end > begin && (grid_.at(row, end - 1).blank() || grid_.at(row, end - 1).vertical())) --end;
        if (end - begin < 2 || grid_.at(row, end - 1).character != ':') return std::nullopt;
        for (int c = begin; c < end - 1; ++c) {
            const char x = grid_.at(row, c).character;
            const bool letter = (x >= 'a' && x <= 'z') || (x >= 'A' && x <= 'Z') || x == '_';
            if (!letter && !(c > begin && x >= '0' && x <= '9')) return std::nullopt;
        }
        return grid_.text(row, begin, end - 1);
    }

    /// A row of rails alone divides rungs; a second upright that other rows pass on their right is no rail.
    bool bare_rails(int row) const {
        if (drawing_.form != DrawnForm::Ladder) return false;
        int bars = 0;
        for (int c = grid_.first(row); c < grid_.width(row); ++c) {
            if (grid_.at(row, c).blank()) continue;
            if (!grid_.at(row, c).vertical()) return false;
            ++bars;
        }
        if (bars == 1 && begin_ >= 0 && grid_.first(row) > grid_.first(begin_)) return false;
        if (bars > 2) return false;
        for (int r = begin_; bars == 2 && begin_ >= 0 && r < row; ++r) {
            if (grid_.width(r) > grid_.width(row)) return false;
        }
        // A branch without a right rail: what follows goes on beyond the second upright.
        for (int r = row + 1; bars == 2 && begin_ >= 0 && r < grid_.rows() && grid_.first(r) >= 0; ++r) {
            if (grid_.at(r, grid_.width(row) - 1).links == kNoLink) break;
            if (grid_.at(r, grid_.width(row) - 1).horizontal()) break;
            if (grid_.width(r) > grid_.width(row)) return false;
        }
        return true;
    }

    /// A network with what stands above it.
    Network begun(int first, int last) {
        Network network;
        network.title = std::move(title_);
        network.label = std::move(label_);
        network.span = grid_.span(first, grid_.first(first));
        network.first_row = first;
        network.last_row = last;
        title_.clear();
        label_ = {};
        return network;
    }

    void end_network(int row) {
        if (begin_ < 0) return;
        const Rows rows{begin_, row};
        Network network = begun(rows.first, rows.last);
        begin_ = -1;
        const bool fits = rows.last - rows.first <= kMostRows;
        if (!fits) too_large(network.span, fmt::format("a network has {} rows at most", kMostRows));
        if (!fits || !NetworkReader(grid_, rows, drawing_.form, source_, diagnostics_).read(network)) {
            network.elements.clear();  // its label stays known
            network.nets.clear();
        }
        drawing_.networks.push_back(std::move(network));
    }

    Drawing& drawing_;
    const base::SourcePtr& source_;
    base::Diagnostics& diagnostics_;
    Grid grid_;
    std::string title_;
    DrawnText label_;
    int begin_ = -1;
};

}  // namespace

void read_drawing(Drawing& drawing, const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    DrawingReader(drawing, source, diagnostics).read();
}

}  // namespace vyard::logic
