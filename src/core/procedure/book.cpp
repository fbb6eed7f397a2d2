#include "core/procedure/book.hpp"

#include <fmt/format.h>

#include <set>

namespace vyard::procedure {

using base::Code;
using logic::Token;
using logic::TokenKind;

namespace {

/// A file with one word replaced by what it stands for on some of its lines. Lines keep their numbers.
std::string replaced(const std::string& text, int first_line, int last_line, const std::vector<Token>& tokens,
                     const std::string& name, const std::string& value) {
    std::string out;
    std::size_t copied = 0;
    for (std::size_t i = 0; i < tokens.size(); ++i) {
        const Token& t = tokens[i];
        if (t.span.line < first_line || t.span.line > last_line) continue;
        const auto at = static_cast<std::size_t>(t.text.data() - text.data());
        const bool part = i > 0 && tokens[i - 1].kind == TokenKind::Symbol && tokens[i - 1].text == ".";
        if (t.kind == TokenKind::Identifier && !part && base::fold(t.text) == name) {
            out.append(text, copied, at - copied).append(value);
            copied = at + t.text.size();
        } else if (t.kind == TokenKind::Text) {
            for (std::size_t found = t.text.find('{'); found != std::string_view::npos;
                 found = t.text.find('{', found + 1)) {
                const std::size_t close = t.text.find('}', found);
                if (close == std::string_view::npos || base::fold(t.text.substr(found + 1, close - found - 1)) != name)
                    continue;
                out.append(text, copied, at + found - copied).append(value);
                copied = at + close + 1;
            }
        }
    }
    return out.append(text, copied);
}

bool is_word(const std::vector<Token>& line, std::string_view word) {
    return line[0].kind == TokenKind::Identifier && base::fold(line[0].text) == word;
}

class BookReader {
  public:
    BookReader(const session::SessionModel& model, Book& book, base::Diagnostics& diagnostics)
        : book_(book),
          diagnostics_(diagnostics),
          conditions_(signal_resolver(model, signals_, diagnostics)),
          orders_(model, conditions_, diagnostics) {}

    void file(const base::SourcePtr& source) {
        source_ = source;
        procedure_ = nullptr;
        for_all_ = true;
        rounds_ = 0;
        block(logic::tokenize(source, diagnostics_), 0, 1 << 30);
    }

    void finish() {
        for (ProcedureModel& p : book_.procedures) {
            if (p.steps.empty())
                diagnostics_.error(Code::NothingTested, p.place, fmt::format("procedure \"{}\" has no step", p.name),
                                   "step \"Start\" and what to do and expect");
            p.rules.insert(p.rules.begin(), common_.begin(), common_.end());
        }
        if (book_.procedures.empty() && source_ != nullptr)
            diagnostics_.error(Code::NothingTested, {source_, 0, 0, 1},
                               "there are rules, but no procedure to watch them in");
        seal();
    }

    /// Orders alone, one a line.
    void orders(const base::SourcePtr& source) {
        source_ = source;
        orders_alone_ = true;
        for_all_ = false;
        book_.procedures.emplace_back();
        procedure_ = &book_.procedures.back();
        procedure_->name = "orders";
        procedure_->place = {source, 0, 0, 1};
        procedure_->steps.push_back({"orders", procedure_->place, {}});
        block(logic::tokenize(source, diagnostics_), 0, 1 << 30);
        seal();
    }

    /// One order alone.
    void order(const base::SourcePtr& source) {
        source_ = source;
        const auto lines = split_lines(logic::tokenize(source, diagnostics_));
        if (lines.empty() || diagnostics_.has_errors()) return;
        auto order = orders_.read(source, lines[0]);
        if (!order) return;
        StepModel step{"order", order->place, {}};
        step.orders.push_back(std::move(*order));
        ProcedureModel procedure;
        procedure.name = "order";
        procedure.place = step.place;
        procedure.steps.push_back(std::move(step));
        book_.procedures.push_back(std::move(procedure));
        seal();
    }

  private:
    static constexpr int kMostRounds = 10'000;  ///< Of all loops of a file together.

    void seal() {
        auto conditions = std::make_shared<Conditions>();
        conditions->set = conditions_.finish();
        conditions->signals = std::move(signals_);
        book_.conditions = std::move(conditions);
    }

    /// The statements of the lines from `first` up to `end`.
    void block(const std::vector<Token>& tokens, int first, int end) {
        const auto lines = split_lines(tokens);
        for (std::size_t i = 0; i < lines.size(); ++i) {
            const int number = lines[i][0].span.line;
            if (number < first || number >= end) continue;
            if (!is_word(lines[i], "repeat") && !is_word(lines[i], "for")) {
                statement(lines[i]);
                continue;
            }
            std::size_t close = i + 1;
            for (int depth = 1; close < lines.size(); ++close) {
                depth += is_word(lines[close], "repeat") || is_word(lines[close], "for") ? 1 : 0;
                depth -= is_word(lines[close], "end") ? 1 : 0;
                if (depth == 0) break;
            }
            if (close == lines.size() || lines[close][0].span.line >= end) {
                diagnostics_.error(Code::Syntax, place(lines[i][0]),
                                   fmt::format("'{}' without an 'end'", lines[i][0].text));
                return;
            }
            orders_.at_end(source_, lines[close], 1);
            is_word(lines[i], "repeat") ? repeat(tokens, lines[i], lines[close][0].span.line)
                                        : for_each(tokens, lines[i], lines[close][0].span.line);
            i = close;
        }
    }

    bool another_round(const std::vector<Token>& line) {
        if (++rounds_ <= kMostRounds) return true;
        if (rounds_ == kMostRounds + 1)
            diagnostics_.error(Code::TooDeep, place(line[0]),
                               fmt::format("the loops of this file come to more than {} rounds", kMostRounds));
        return false;
    }

    /// repeat N ... end
    void repeat(const std::vector<Token>& tokens, const std::vector<Token>& line, int end) {
        if (line[1].kind != TokenKind::Integer || line[1].integer < 1 || line[1].integer > 1000) {
            diagnostics_.error(Code::Syntax, place(line[1]), "expected how often, 1 to 1000", "repeat 3 ... end");
            return;
        }
        std::size_t at = 2;
        if (line[at].kind == TokenKind::Identifier && base::fold(line[at].text) == "times") ++at;
        if (!orders_.at_end(source_, line, at)) return;
        const std::uint64_t count = line[1].integer;
        const std::string outer = round_;
        const int errors = diagnostics_.error_count();
        for (std::uint64_t n = 1; n <= count && another_round(line) && diagnostics_.error_count() == errors; ++n) {
            round_ = fmt::format("{} ({} of {})", outer, n, count);
            block(tokens, line[0].span.line + 1, end);
        }
        round_ = outer;
    }

    /// for NAME in A, B, C ... end
    void for_each(const std::vector<Token>& tokens, const std::vector<Token>& line, int end) {
        const bool named = line[1].kind == TokenKind::Identifier && line.size() > 4 &&
                           line[2].kind == TokenKind::Identifier && base::fold(line[2].text) == "in";
        if (!named) {
            diagnostics_.error(Code::Syntax, place(line[0]), "expected a name, 'in' and values",
                               "for eye in dip_eye, out_eye ... end");
            return;
        }
        std::vector<std::string> values;
        const auto offset = [&](const Token& t) {
            return static_cast<std::size_t>(t.text.data() - source_->text.data());
        };
        std::size_t begin = 3;
        for (std::size_t i = 3; i < line.size(); ++i) {
            const bool stop =
                line[i].kind == TokenKind::End || (line[i].kind == TokenKind::Symbol && line[i].text == ",");
            if (!stop) continue;
            if (i == begin) {
                diagnostics_.error(Code::Syntax, place(line[i]), "expected a value between the commas");
                return;
            }
            const Token& last = line[i - 1];
            values.push_back(
                source_->text.substr(offset(line[begin]), offset(last) + last.text.size() - offset(line[begin])));
            begin = i + 1;
        }
        const std::string name = base::fold(line[1].text);
        const base::SourcePtr source = source_;
        const std::string outer = round_;
        const int errors = diagnostics_.error_count();
        for (const std::string& value : values) {
            if (!another_round(line) || diagnostics_.error_count() != errors) break;
            source_ = base::make_source(source->path,
                                        replaced(source->text, line[0].span.line + 1, end - 1, tokens, name, value));
            round_ = fmt::format("{} ({})", outer, value);
            base::Diagnostics known;  // what cannot be read as tokens was reported with the file
            block(logic::tokenize(source_, known), line[0].span.line + 1, end);
        }
        source_ = source;
        round_ = outer;
    }

    void statement(const std::vector<Token>& line) {
        const std::string word = line[0].kind == TokenKind::Identifier ? base::fold(line[0].text) : "";
        if (orders_alone_ && (word == "procedure" || word == "step" || word == "rule" || word == "rules")) {
            diagnostics_.error(Code::Syntax, place(line[0]),
                               fmt::format("'{}' stands in procedure files; an order is expected", line[0].text));
            return;
        }
        if (word == "procedure") return procedure(line);
        if (word == "step") return step(line);
        if (word == "rule") return rule(line);
        if (word == "rules") {
            orders_.at_end(source_, line, 1);
            for_all_ = true;
            return;
        }
        if (word == "end") {
            diagnostics_.error(Code::Syntax, place(line[0]), "'end' without a 'repeat' or 'for'");
            return;
        }
        if (for_all_ || procedure_ == nullptr || procedure_->steps.empty()) {
            std::vector<std::string> known = {"procedure", "step", "rule", "rules", "repeat", "for"};
            diagnostics_.error(Code::Syntax, place(line[0]), fmt::format("'{}' stands outside a step", line[0].text),
                               base::nearest_name(word, known).empty()
                                   ? "start with: procedure \"...\" and step \"...\""
                                   : base::name_hint(word, known));
            return;
        }
        if (auto order = orders_.read(source_, line)) procedure_->steps.back().orders.push_back(std::move(*order));
    }

    base::Place place(const Token& t) const { return logic::place_in(source_, t.span); }

    /// The name in quotes behind `procedure`, `step` or `rule`; "" after a report.
    std::string title(const std::vector<Token>& line) {
        std::string name;
        if (line[1].kind == TokenKind::Text) name = line[1].text.substr(1, line[1].text.size() - 2);
        if (name.empty() && line[1].kind != TokenKind::Bad) {
            diagnostics_.error(Code::Syntax, place(line[1]),
                               fmt::format("expected a name in quotes after '{}'", line[0].text));
        }
        return name;
    }

    // A procedure or step is opened even when its name is wrong, so that its lines are read where they belong.

    void procedure(const std::vector<Token>& line) {
        ProcedureModel p;
        p.name = title(line);
        p.place = place(line[0]);
        if (!p.name.empty()) orders_.at_end(source_, line, 2);
        if (!p.name.empty() && !names_.insert(p.name).second) {
            diagnostics_.error(Code::DuplicateName, place(line[1]),
                               fmt::format("procedure \"{}\" is written twice", p.name));
        }
        book_.procedures.push_back(std::move(p));
        procedure_ = &book_.procedures.back();
        for_all_ = false;
    }

    void step(const std::vector<Token>& line) {
        const std::string name = title(line);
        if (!name.empty()) orders_.at_end(source_, line, 2);
        if (procedure_ == nullptr || for_all_) {
            diagnostics_.error(Code::Syntax, place(line[0]), "a step stands in a procedure",
                               "start with: procedure \"...\"");
            return;
        }
        procedure_->steps.push_back({name + round_, place(line[0]), {}});
    }

    void rule(const std::vector<Token>& line) {
        RuleModel r;
        r.name = title(line);
        r.place = place(line[0]);
        if (r.name.empty()) return;
        std::size_t at = 2;
        if (line[at].kind == TokenKind::Symbol && line[at].text == ":") ++at;
        const std::string form = line[at].kind == TokenKind::Identifier ? base::fold(line[at].text) : "";
        if (form != "never" && form != "always" && form != "whenever") {
            diagnostics_.error(Code::Syntax, place(line[at]), "expected never, always or whenever",
                               form.empty() ? "" : base::name_hint(form, {"never", "always", "whenever"}));
            return;
        }
        ++at;
        r.form = form == "never" ? RuleForm::Never : form == "always" ? RuleForm::Always : RuleForm::Whenever;
        if (r.form == RuleForm::Whenever && !whenever(line, at, r)) return;
        if (r.form != RuleForm::Whenever && (r.condition = orders_.condition(source_, line, at)) < 0) return;
        if (!orders_.at_end(source_, line, at)) return;
        r.own = !for_all_;
        if (!round_.empty()) r.name += round_;
        (for_all_ ? common_ : procedure_->rules).push_back(std::move(r));
    }

    bool is(const Token& t, std::string_view word) const {
        return t.kind == TokenKind::Identifier && base::fold(t.text) == word;
    }

    /// whenever A [for T] then B [within T] [not before T]
    bool whenever(const std::vector<Token>& line, std::size_t& at, RuleModel& r) {
        r.trigger = orders_.condition(source_, line, at);
        if (r.trigger < 0) return false;
        if (is(line[at], "for")) {
            ++at;
            const auto held = orders_.time(source_, line, at);
            if (!held) return false;
            r.trigger_for = *held;
        }
        if (!is(line[at], "then")) {
            diagnostics_.error(Code::Syntax, place(line[at]), "expected 'then' and what must follow",
                               "whenever A then B within 50 ms");
            return false;
        }
        ++at;
        r.condition = orders_.condition(source_, line, at);
        OrderReader::Limits limits;
        if (r.condition < 0 || !orders_.limits(source_, line, at, false, limits)) return false;
        r.within = limits.within.value_or(base::Nanoseconds{});
        r.not_before = limits.not_before;
        if (limits.within || r.not_before.count() == 0) return true;
        diagnostics_.error(Code::Syntax, place(line[at]), "'not before' goes with 'within'",
                           "whenever A then B within 9 s not before 7 s");
        return false;
    }

    Book& book_;
    base::Diagnostics& diagnostics_;
    std::vector<session::Signal> signals_;
    logic::ConditionCompiler conditions_;
    OrderReader orders_;
    base::SourcePtr source_;
    ProcedureModel* procedure_ = nullptr;  // the one being read; book_.procedures grows only in procedure()
    bool for_all_ = true;                  // rules that come now hold in every procedure
    bool orders_alone_ = false;
    std::string round_;  // of the loops around: " (2 of 3)"
    int rounds_ = 0;
    std::vector<RuleModel> common_;
    std::set<std::string> names_;
};

bool may_be_echo(Code code) {
    switch (code) {
        case Code::UnknownName:
        case Code::UnknownDevice:
        case Code::UnknownTag:
        case Code::UnknownControl:
        case Code::UnknownFault:
        case Code::UnknownItem:
        case Code::WrongDevice:
        case Code::WrongValue:
        case Code::TypeMismatch: return true;
        default: return false;
    }
}

}  // namespace

std::shared_ptr<const Book> read_book(const session::SessionModel& model, const std::vector<base::SourcePtr>& sources,
                                      base::Diagnostics& diagnostics, bool names_known) {
    base::Diagnostics own;
    auto book = std::make_shared<Book>();
    BookReader reader(model, *book, own);
    for (const base::SourcePtr& source : sources) reader.file(source);
    reader.finish();
    for (const base::Diagnostic& d : own.list()) {
        if (names_known || !may_be_echo(d.code)) diagnostics.error(d.code, d.place, d.message, d.hint);
    }
    if (own.has_errors()) return nullptr;
    return book;
}

std::shared_ptr<const Book> read_order(const session::SessionModel& model, const base::SourcePtr& source,
                                       base::Diagnostics& diagnostics) {
    auto book = std::make_shared<Book>();
    BookReader(model, *book, diagnostics).order(source);
    return diagnostics.has_errors() || book->procedures.empty() ? nullptr : book;
}

std::shared_ptr<const Book> read_orders(const session::SessionModel& model, const base::SourcePtr& source,
                                        base::Diagnostics& diagnostics) {
    auto book = std::make_shared<Book>();
    BookReader(model, *book, diagnostics).orders(source);
    return diagnostics.has_errors() ? nullptr : book;
}

}  // namespace vyard::procedure
