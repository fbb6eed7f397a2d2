#include "core/logic/drawn/rung_line.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "core/base/base.hpp"

namespace vyard::logic {

using base::Code;

namespace {

constexpr std::string_view kWord = "rung:";
constexpr int kMostDepth = 60;

class RungLine {
  public:
    RungLine(const DrawnText& row, int number, Network& out, const base::SourcePtr& source,
             base::Diagnostics& diagnostics)
        : source_(source), diagnostics_(diagnostics), out_(out), number_(number) {
        const std::size_t skip = kWord.size();
        tokens_ = tokenize_piece(source, row.offset + skip, row.text.size() - skip, row.span.line,
                                 row.span.column + static_cast<int>(skip), diagnostics);
        row_ = row;
    }

    bool read() {
        const int errors = diagnostics_.error_count();
        const int power = net(), end = net();
        out_.nets[0].power = true;
        if (either(power, end, false, 0)) {
            if (!take("->")) {
                error("expected AND, OR or '->'", "rung: start_pb AND NOT stop_pb -> run");
            } else {
                targets(end);
            }
        }
        return diagnostics_.error_count() == errors;
    }

  private:
    const Token& token(std::size_t ahead = 0) const { return tokens_[std::min(at_ + ahead, tokens_.size() - 1)]; }
    bool is(const char* text, std::size_t ahead = 0) const { return base::fold(token(ahead).text) == text; }
    bool at_end() const { return token().kind == TokenKind::End; }
    bool take(const char* text) {
        if (!is(text)) return false;
        ++at_;
        return true;
    }
    bool error(std::string message, std::string hint = {}) {
        const Span span =
            at_end() ? Span{row_.span.line, row_.span.column + static_cast<int>(row_.text.size()), 1} : token().span;
        diagnostics_.error(Code::Syntax, place_in(source_, span), std::move(message), std::move(hint));
        return false;
    }

    // --- the network ---

    int net() {
        out_.nets.emplace_back();
        out_.nets.back().span = row_.span;
        return static_cast<int>(out_.nets.size()) - 1;
    }

    /// The characters from one token up to before another.
    DrawnText slice(std::size_t from, std::size_t to) const {
        DrawnText out;
        const Token& first = tokens_[from];
        const Token& last = tokens_[to - 1];
        const auto begin = first.text.data(), end = last.text.data() + last.text.size();
        out.text = std::string(begin, end);
        out.offset = static_cast<std::size_t>(begin - source_->text.data());
        out.span = {first.span.line, first.span.column, static_cast<int>(end - begin)};
        return out;
    }

    DrawnElement& add(ElementKind kind, DrawnText name, int left, int right) {
        DrawnElement e;
        e.kind = kind;
        e.span = name.span;
        e.row = number_;
        e.column = name.span.column;
        e.width = name.span.length;
        e.name = std::move(name);
        const int number = static_cast<int>(out_.elements.size());
        const bool both = kind == ElementKind::Contact || kind == ElementKind::Coil;
        for (const bool output : {false, true}) {
            if (output && !both) continue;
            DrawnPin pin;
            pin.output = output;
            pin.net = output ? right : left;
            if (pin.net >= 0) {
                DrawnNet& n = base::at(out_.nets, pin.net);
                (output ? n.from : n.to).push_back({number, static_cast<int>(e.pins.size())});
            }
            e.pins.push_back(std::move(pin));
        }
        out_.elements.push_back(std::move(e));
        return out_.elements.back();
    }

    // --- contacts between two lines ---

    bool either(int left, int right, bool negated, int depth) { return list(left, right, negated, depth, "or"); }

    /// Parts joined by a word. In series one after another, else side by side; NOT turns one into the other.
    bool list(int left, int right, bool negated, int depth, const char* word) {
        if (depth > kMostDepth) return error("this rung is nested too deeply");
        const bool any = std::string_view(word) == "or";
        const bool series = any == negated;
        int from = left;
        while (true) {
            // Whether another part follows is known only behind this one, so its end is joined to `right` then.
            const int to = series ? net() : right;
            if (!(any ? list(from, to, negated, depth + 1, "and") : part(from, to, negated, depth + 1))) return false;
            const bool more = any ? take("or") : (take("and") || take("&"));
            if (!more) {
                if (series) merge(to, right);
                return true;
            }
            if (series) from = to;
        }
    }

    /// What leads to one line leads to another.
    void merge(int from, int to) {
        DrawnNet& gone = base::at(out_.nets, from);
        for (const NetEnd& end : gone.from) {
            base::at(base::at(out_.elements, end.element).pins, end.pin).net = to;
            base::at(out_.nets, to).from.push_back(end);
        }
        gone.from.clear();
    }

    bool part(int left, int right, bool negated, int depth) {
        if (take("not")) return part(left, right, !negated, depth + 1);
        if (!is("(") || !encloses()) return contact(left, right, negated);
        take("(");
        if (!either(left, right, negated, depth + 1)) return false;
        return take(")") || error("expected ')'");
    }

    /// The token behind the bracket that closes the one at `at`.
    std::size_t behind(std::size_t at) const {
        int depth = 0;
        for (; at < tokens_.size(); ++at) {
            const std::string_view text = tokens_[at].text;
            const bool symbol = tokens_[at].kind == TokenKind::Symbol;
            if (symbol && (text == "(" || text == "[")) ++depth;
            if (symbol && (text == ")" || text == "]") && --depth == 0) return at + 1;
        }
        return tokens_.size() - 1;
    }

    bool ends_contact(std::size_t at) const {
        const std::string text = base::fold(tokens_[at].text);
        return tokens_[at].kind == TokenKind::End || text == "and" || text == "&" || text == "or" || text == ")" ||
               text == "->";
    }
    /// Whether brackets hold contacts, and not a value that is compared.
    bool encloses() const { return ends_contact(behind(at_)); }

    bool contact(int left, int right, bool negated) {
        const std::size_t first = at_;
        std::size_t operation = 0;
        while (!ends_contact(at_)) {
            const bool compares = is("=") || is("<>") || is("<") || is("<=") || is(">") || is(">=");
            if (compares && operation > 0) return error("a contact compares two values");
            if (compares) operation = at_;
            at_ = is("(") || is("[") ? behind(at_) : at_ + 1;
        }
        const bool missing = at_ == first || (operation > 0 && (operation == first || operation + 1 == at_));
        if (missing) return error(operation > 0 ? "a value is missing beside this comparison" : "expected a contact");
        if (operation > 0) return comparison(left, right, negated, first, operation);
        return plain(left, right, negated, first);
    }

    bool plain(int left, int right, bool negated, std::size_t first) {
        const std::string word = base::fold(tokens_[first].text);
        const bool edge = (word == "p" || word == "n") && tokens_[first + 1].text == "(" && behind(first + 1) == at_;
        if (edge && at_ - first < 4) return error("an edge needs a variable: P(x)");
        if (edge && negated) return error("a contact cannot show NOT of an edge", "name a variable for the edge first");
        DrawnElement& e = add(ElementKind::Contact, edge ? slice(first + 2, at_ - 1) : slice(first, at_), left, right);
        e.contact = edge ? (word == "p" ? ContactKind::Rising : ContactKind::Falling)
                         : (negated ? ContactKind::Closed : ContactKind::Open);
        return true;
    }

    bool comparison(int left, int right, bool negated, std::size_t first, std::size_t operation) {
        std::string sign(tokens_[operation].text);
        if (negated && sign != "=" && sign != "<>")
            return error(fmt::format("a contact cannot show NOT of '{}'", sign), "write the opposite comparison");
        if (negated) sign = sign == "=" ? "<>" : "=";
        DrawnElement& e = add(ElementKind::Contact, slice(first, operation), left, right);
        e.contact = ContactKind::Compare;
        e.comparison = sign;
        e.second = slice(operation + 1, at_);
        return true;
    }

    // --- coils ---

    void targets(int net) {
        do {
            if (!target(net)) return;
        } while (take(","));
        if (!at_end()) error("expected ',' and another coil");
    }

    bool target(int net) {
        if (is(">") && is(">", 1)) {
            at_ += 2;
            if (token().kind != TokenKind::Identifier) return error("this jump names no label");
            add(ElementKind::Jump, slice(at_, at_ + 1), net, -1);
            ++at_;
            return true;
        }
        if (is("<") && is("return", 1) && is(">", 2)) {
            add(ElementKind::Return, slice(at_, at_ + 3), net, -1);
            at_ += 3;
            return true;
        }
        CoilKind kind = CoilKind::Plain;
        if (take("(")) {
            static constexpr const char* kMarks[] = {"", "/", "s", "r", "p", "n"};
            const auto mark =
                std::find_if(std::begin(kMarks) + 1, std::end(kMarks), [&](const char* m) { return is(m); });
            if (mark == std::end(kMarks)) return error("expected a coil's mark", "(/) (S) (R) (P) (N)");
            kind = static_cast<CoilKind>(mark - std::begin(kMarks));
            ++at_;
            if (!take(")")) return error("expected ')'");
        }
        const std::size_t first = at_;
        while (!at_end() && !is(",")) at_ = is("[") ? behind(at_) : at_ + 1;
        if (at_ == first) return error("expected the variable of a coil");
        add(ElementKind::Coil, slice(first, at_), net, -1).coil = kind;
        return true;
    }

    const base::SourcePtr& source_;
    base::Diagnostics& diagnostics_;
    Network& out_;
    int number_;
    DrawnText row_;
    std::vector<Token> tokens_;
    std::size_t at_ = 0;
};

}  // namespace

bool is_rung_line(const std::string& row) {
    return base::fold(row.substr(0, kWord.size())) == kWord;
}

bool read_rung_line(const DrawnText& row, int number, Network& out, const base::SourcePtr& source,
                    base::Diagnostics& diagnostics) {
    return RungLine(row, number, out, source, diagnostics).read();
}

}  // namespace vyard::logic
