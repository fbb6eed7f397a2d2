#include "core/logic/drawn/drawing_writer.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>
#include <map>

#include "core/base/base.hpp"
#include "core/logic/drawn/grid.hpp"
#include "core/logic/drawn/layout.hpp"
#include "core/logic/drawn/network_reader.hpp"
#include "core/logic/text/token.hpp"

namespace vyard::logic {

namespace {

/// Rows and columns of characters, each of which may be several bytes.
class Canvas {
  public:
    void put(int row, int column, const std::string& text) {
        for (std::size_t i = 0; i < text.size();) {
            std::size_t end = i + 1;
            while (end < text.size() && (static_cast<unsigned char>(text[end]) & 0xC0U) == 0x80U) ++end;
            cell(row, column++).assign(text, i, end - i);
            i = end;
        }
    }
    void across(int row, int from, int to) {
        for (int c = std::min(from, to); c <= std::max(from, to); ++c) cell(row, c) = "-";
    }
    void upright(int column, int from, int to) {
        for (int r = from; r <= to; ++r) cell(r, column) = "|";
    }
    std::vector<std::string> rows() const {
        std::vector<std::string> out;
        for (const std::vector<std::string>& cells : rows_) {
            std::string row;
            for (const std::string& c : cells) {
                row.append(c.empty() ? 1 : 0, ' ');
                row.append(c);
            }
            row.erase(row.find_last_not_of(' ') + 1);
            out.push_back(std::move(row));
        }
        return out;
    }

  private:
    std::string& cell(int row, int column) {
        if (row >= static_cast<int>(rows_.size())) rows_.resize(static_cast<std::size_t>(row) + 1);
        std::vector<std::string>& cells = base::at(rows_, row);
        if (column >= static_cast<int>(cells.size())) cells.resize(static_cast<std::size_t>(column) + 1);
        return base::at(cells, column);
    }
    std::vector<std::vector<std::string>> rows_;
};

class Painter {
  public:
    Painter(const Network& network, DrawnForm form) : form_(form), layout_(lay_out(network, form)) {
        columns();
        right_rail_ = next_;
    }

    int width() const { return form_ == DrawnForm::Ladder ? right_rail_ : 0; }

    /// Moves the right rail, and what stands at it, as far out as `width` if it is not.
    WrittenNetwork run(int width) {
        right_rail_ = std::max(next_, width);
        const int shift = right_rail_ - next_;
        for (PlacedBlock& b : layout_.blocks) {
            if (b.layer >= layout_.coil_layer) b.column += shift;
        }
        for (Trunk& t : layout_.trunks) {
            if (t.channel >= layout_.coil_layer) t.column += shift;
        }
        rails();
        for (const PlacedBlock& b : layout_.blocks) lines(b);
        for (std::size_t n = 0; n < layout_.return_row.size(); ++n) {
            if (layout_.return_row[n] < 0) continue;
            canvas_.across(layout_.return_row[n], trunk(layout_.trunk_of[n]).column, trunk(layout_.back_of[n]).column);
        }
        for (const Trunk& t : layout_.trunks) {
            if (t.rows.size() > 1) canvas_.upright(t.column, t.rows.front(), t.rows.back());
        }
        for (const Trunk& t : layout_.trunks) {
            if (t.rows.size() < 2) continue;
            for (const int r : t.rows) canvas_.put(r, t.column, "+");
        }
        WrittenNetwork out;
        out.row_of.assign(layout_.network.elements.size(), 0);
        for (const PlacedBlock& b : layout_.blocks) {
            for (const BlockText& t : b.block.texts) canvas_.put(b.row + t.row, b.column + t.column, t.text);
            base::at(out.row_of, base::at(layout_.order, b.block.element)) = b.row;
            for (const Attached& a : b.block.attached)
                base::at(out.row_of, base::at(layout_.order, a.element)) = b.row + a.row;
        }
        out.rows = canvas_.rows();
        return out;
    }

  private:
    const Trunk& trunk(int i) const { return base::at(layout_.trunks, i); }

    // --- columns ---

    void columns() {
        next_ = form_ == DrawnForm::Ladder ? 1 : 0;
        channel(-1);
        for (int layer = 0; layer < layout_.layers; ++layer) {
            int left = 0, right = 0;
            for (const PlacedBlock& b : layout_.blocks) {
                if (b.layer != layer) continue;
                left = std::max(left, b.block.left);
                right = std::max(right, b.block.right);
            }
            for (PlacedBlock& b : layout_.blocks) {
                if (b.layer == layer) b.column = next_ + left;
            }
            next_ += left + right;
            channel(layer);
        }
    }

    /// Uprights share a column where rows lie between them.
    void channel(int number) {
        std::vector<Trunk*> here;
        for (Trunk& t : layout_.trunks) {
            if (t.channel == number && t.rows.size() > 1) here.push_back(&t);
        }
        std::sort(here.begin(), here.end(), [](const Trunk* a, const Trunk* b) { return a->place < b->place; });
        int end = next_;
        for (std::size_t i = 0; i < here.size(); ++i) {
            here[i]->column = next_;
            for (std::size_t k = 0; k < i; ++k) {
                const bool apart = here[k]->rows.back() + 1 < here[i]->rows.front() ||
                                   here[i]->rows.back() + 1 < here[k]->rows.front();
                if (!apart) here[i]->column = std::max(here[i]->column, here[k]->column + 2);
            }
            end = std::max(end, here[i]->column + 1);
        }
        next_ = end;
    }

    // --- lines ---

    void rails() {
        if (form_ != DrawnForm::Ladder) return;
        canvas_.upright(0, 0, layout_.rows - 1);
        canvas_.upright(right_rail_, 0, layout_.rows - 1);
    }

    void lines(const PlacedBlock& b) {
        for (const Port& p : b.block.ports) {
            const int row = b.row + p.row, column = b.column + p.column;
            const bool coil = base::at(layout_.network.elements, b.block.element).kind == ElementKind::Coil;
            if (p.output && (p.net < 0 ? coil : base::at(layout_.to_rail, p.net))) {
                canvas_.across(row, column, right_rail_);
                canvas_.put(row, right_rail_, "+");
            } else if (p.net >= 0 && base::at(layout_.network.nets, p.net).power) {
                canvas_.across(row, 0, column);
                canvas_.put(row, 0, "+");
            } else if (p.net >= 0) {
                canvas_.across(row, column, end_of(b, p));
            }
        }
    }

    int end_of(const PlacedBlock& b, const Port& p) const {
        const Trunk& main = trunk(base::at(layout_.trunk_of, p.net));
        if (p.back) return trunk(base::at(layout_.back_of, p.net)).column;
        if (main.rows.size() > 1) return main.column;
        return straight(b, p);
    }

    /// The other end of a line that needs no upright.
    int straight(const PlacedBlock& b, const Port& p) const {
        for (const PlacedBlock& other : layout_.blocks) {
            for (const Port& q : other.block.ports) {
                if (q.net == p.net && q.output != p.output) return other.column + q.column;
            }
        }
        return b.column + p.column;
    }

    DrawnForm form_;
    NetworkLayout layout_;
    Canvas canvas_;
    int next_ = 0, right_rail_ = 0;
};

/// What of a drawing is no network stays as it is: comments, and labels.
class DrawingWriter {
  public:
    DrawingWriter(const Drawing& drawing, std::string indent)
        : drawing_(drawing), indent_(std::move(indent)), grid_(drawing.text, drawing.offset, drawing.span.line + 1) {
        for (const Network& n : drawing.networks) {
            painters_.emplace_back(n, drawing.form);
            width_ = std::max(width_, painters_.back().width());
        }
    }

    std::vector<std::string> rows() {
        auto network = drawing_.networks.begin();
        for (int r = 0; r < grid_.rows();) {
            if (network != drawing_.networks.end() && network->first_row == r) {
                if (follows_network_) blank();
                add_network(*network);
                r = network++->last_row;
            } else {
                other_row(r++);
            }
        }
        while (!out_.empty() && out_.back().empty()) out_.pop_back();
        return std::move(out_);
    }

  private:
    void blank() {
        if (!out_.empty() && !out_.back().empty()) out_.emplace_back();
        follows_network_ = false;
    }

    /// Comments, labels, bare rails and blank rows.
    void other_row(int row) {
        const std::string label = label_of(row);
        const std::string& comment = grid_.comment(row);
        const bool alone = grid_.first(row) < 0 && grid_.commented(row);
        // A comment that began beside a network, where its first mark is gone.
        const bool rest = grid_.within_comment(row) && !verbatim_;
        const std::string beside = comment.empty() ? "" : fmt::format("// {}", comment);
        std::string written;
        if (!label.empty()) {
            written = indent_ + label + (beside.empty() ? "" : "  " + beside);
        } else if (!alone || rest) {
            if (!beside.empty()) written = indent_ + beside;
        } else if (grid_.within_comment(row)) {
            written = grid_.written(row);
        } else {
            const std::string text = grid_.written(row);
            written = indent_ + text.substr(std::min(text.find_first_not_of(" \t"), text.size()));
        }
        verbatim_ = alone && !rest && row + 1 < grid_.rows() && grid_.within_comment(row + 1);
        if (written.empty()) return blank();
        if (follows_network_) blank();
        out_.push_back(std::move(written));
        if (!alone && label.empty()) blank();  // bare rails divide, so what stood beside them is no title
    }

    /// "NAME:", which may stand between rails; "" for none.
    std::string label_of(int row) const {
        const auto bare = [&](int c) { return grid_.at(row, c).blank() || grid_.at(row, c).vertical(); };
        int begin = 0, end = grid_.width(row);
        while (begin < end && bare(begin)) ++begin;
        while (end > begin && bare(end - 1)) --end;
        return begin < end ? grid_.text(row, begin, end).text : "";
    }

    void add_network(const Network& n) {
        verbatim_ = false;
        const WrittenNetwork written = base::at(painters_, &n - drawing_.networks.data()).run(width_);
        std::map<int, std::string> comments;
        for (int r = n.first_row; r < n.last_row; ++r) {
            if (grid_.comment(r).empty()) continue;
            std::string& there = comments[row_for(n, written, r)];
            there = fmt::format("{}{}{}", there, there.empty() ? "" : "; ", grid_.comment(r));
        }
        std::size_t widest = 0;
        for (const std::string& row : written.rows)
            widest = std::max(widest, static_cast<std::size_t>(text_width(row)));
        for (std::size_t r = 0; r < written.rows.size(); ++r) {
            std::string row = written.rows[r];
            if (const auto found = comments.find(static_cast<int>(r)); found != comments.end()) {
                row.append(widest - static_cast<std::size_t>(text_width(row)), ' ');
                row = fmt::format("{}  // {}", row, found->second);
            }
            out_.push_back(fmt::format("{}{}", indent_, row));
        }
        follows_network_ = true;
    }

    /// The row to whose right a comment goes: that of the element it stood beside.
    static int row_for(const Network& n, const WrittenNetwork& written, int row) {
        const int best = nearest_element(n, row);
        const DrawnElement& e = base::at(n.elements, best);
        const int within = std::clamp(row - e.row, 0, e.height - 1);
        return std::min(base::at(written.row_of, best) + within, static_cast<int>(written.rows.size()) - 1);
    }

    const Drawing& drawing_;
    std::string indent_;
    Grid grid_;
    int width_ = 0;  ///< Of the right rail, for all networks of the drawing.
    std::vector<Painter> painters_;
    std::vector<std::string> out_;
    bool follows_network_ = false;
    bool verbatim_ = false;  ///< The row before is part of a comment that goes on, written as it was.
};

/// The blanks at the front of the line that holds `offset`.
std::string indent_at(std::string_view text, std::size_t offset) {
    const std::size_t begin = offset == 0 ? 0 : text.rfind('\n', offset - 1) + 1;
    return std::string(text.substr(begin, text.find_first_not_of(" \t", begin) - begin));
}

}  // namespace

int nearest_element(const Network& network, int row) {
    int best = -1, distance = 0;
    for (int i = 0; i < static_cast<int>(network.elements.size()); ++i) {
        const DrawnElement& e = base::at(network.elements, i);
        const int off = row < e.row ? e.row - row : std::max(0, row - e.row - e.height + 1);
        if (best >= 0 && off >= distance) continue;
        best = i;
        distance = off;
    }
    return best;
}

WrittenNetwork write_network(const Network& network, DrawnForm form) {
    return Painter(network, form).run(0);
}

std::vector<WrittenNetwork> write_networks(const std::vector<Network>& networks, DrawnForm form) {
    std::vector<Painter> painters;
    int width = 0;
    for (const Network& n : networks) {
        painters.emplace_back(n, form);
        width = std::max(width, painters.back().width());
    }
    std::vector<WrittenNetwork> out;
    out.reserve(painters.size());
    for (Painter& p : painters) out.push_back(p.run(width));
    return out;
}

std::vector<Drawing> drawings_of(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    std::vector<Drawing> out;
    for (const Token& token : tokenize(source, diagnostics)) {
        if (token.kind != TokenKind::Drawing || token.text.empty()) continue;
        Drawing drawing = drawing_of(token, *source);
        read_drawing(drawing, source, diagnostics);
        out.push_back(std::move(drawing));
    }
    return out;
}

namespace {

/// Nothing is handed out that would be read as something else: a text that is not an expression may swallow what is
/// beside it once it stands elsewhere.
bool reads_back(const std::vector<Drawing>& before, const std::string& written, const base::SourcePtr& source,
                base::Diagnostics& diagnostics) {
    base::Diagnostics ignored;
    const base::SourcePtr again = base::make_source(source->path, written);
    const std::vector<Drawing> after = drawings_of(again, ignored);
    bool good = true;
    for (std::size_t d = 0; d < before.size(); ++d) {
        const std::size_t count = d < after.size() ? after[d].networks.size() : 0;
        for (std::size_t n = 0; n < before[d].networks.size(); ++n) {
            const Network& network = before[d].networks[n];
            if (n < count && network_meaning(after[d].networks[n]) == network_meaning(network)) continue;
            diagnostics.error(base::Code::Syntax, place_in(source, network.span),
                              "what stands in this network cannot be formatted",
                              "look for a text that is not an expression");
            good = false;
        }
    }
    return good;
}

}  // namespace

std::optional<std::string> with_drawings_formatted(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    const std::string& text = source->text;
    const char* end_of_line = text.find("\r\n") != std::string::npos ? "\r\n" : "\n";
    const int errors = diagnostics.error_count();
    const std::vector<Drawing> drawings = drawings_of(source, diagnostics);
    if (diagnostics.error_count() > errors) return std::nullopt;
    std::string out;
    std::size_t done = 0;
    for (const Drawing& drawing : drawings) {
        out.append(text, done, drawing.offset - done);
        for (const std::string& row : DrawingWriter(drawing, indent_at(text, drawing.offset - 2)).rows())
            fmt::format_to(std::back_inserter(out), "{}{}", row, end_of_line);
        done = drawing.offset + drawing.text.size();
    }
    out.append(text, done);
    return reads_back(drawings, out, source, diagnostics) ? std::optional(std::move(out)) : std::nullopt;
}

}  // namespace vyard::logic
