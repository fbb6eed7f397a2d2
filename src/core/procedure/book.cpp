#include "core/procedure/book.hpp"

#include <fmt/format.h>

#include <set>

namespace vyard::procedure {

using base::Code;
using logic::Token;
using logic::TokenKind;

namespace {

class BookReader {
  public:
    BookReader(const session::SessionModel& model, Book& book, base::Diagnostics& diagnostics)
        : book_(book),
          diagnostics_(diagnostics),
          conditions_(signal_resolver(model, book.signals, diagnostics)),
          orders_(model, conditions_, diagnostics) {}

    void file(const base::SourcePtr& source) {
        source_ = source;
        procedure_ = nullptr;
        const std::vector<Token> tokens = logic::tokenize(source, diagnostics_);
        for (const auto& line : split_lines(tokens)) statement(line);
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
        book_.conditions = conditions_.finish();
    }

  private:
    void statement(const std::vector<Token>& line) {
        const std::string word = line[0].kind == TokenKind::Identifier ? base::fold(line[0].text) : "";
        if (word == "procedure") return procedure(line);
        if (word == "step") return step(line);
        if (word == "rule") return rule(line);
        if (procedure_ == nullptr || procedure_->steps.empty()) {
            std::vector<std::string> known = {"procedure", "step", "rule"};
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
    }

    void step(const std::vector<Token>& line) {
        const std::string name = title(line);
        if (!name.empty()) orders_.at_end(source_, line, 2);
        if (procedure_ == nullptr) {
            diagnostics_.error(Code::Syntax, place(line[0]), "a step stands in a procedure",
                               "start with: procedure \"...\"");
            return;
        }
        procedure_->steps.push_back({name, place(line[0]), {}});
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
        (procedure_ == nullptr ? common_ : procedure_->rules).push_back(std::move(r));
    }

    bool whenever(const std::vector<Token>& line, std::size_t& at, RuleModel& r) {
        r.trigger = orders_.condition(source_, line, at);
        if (r.trigger < 0) return false;
        if (line[at].kind != TokenKind::Identifier || base::fold(line[at].text) != "then") {
            diagnostics_.error(Code::Syntax, place(line[at]), "expected 'then' and what must follow",
                               "whenever A then B within 50 ms");
            return false;
        }
        ++at;
        r.condition = orders_.condition(source_, line, at);
        if (r.condition < 0) return false;
        if (line[at].kind != TokenKind::Identifier || base::fold(line[at].text) != "within") return true;
        ++at;
        const auto limit = orders_.time(source_, line, at);
        if (limit) r.within = *limit;
        return limit.has_value();
    }

    Book& book_;
    base::Diagnostics& diagnostics_;
    logic::ConditionCompiler conditions_;
    OrderReader orders_;
    base::SourcePtr source_;
    ProcedureModel* procedure_ = nullptr;  // the one being read; book_.procedures grows only in procedure()
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

}  // namespace vyard::procedure
