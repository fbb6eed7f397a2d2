#include "core/procedure/held_off.hpp"

#include <algorithm>
#include <map>

#include "core/procedure/evaluator.hpp"

namespace vyard::procedure {

namespace {

using logic::Token;
using logic::TokenKind;

bool is_word(const Token& t, std::string_view word) {
    return t.kind == TokenKind::Identifier && base::fold(t.text) == word;
}
bool is_symbol(const Token& t, std::string_view symbol) {
    return t.kind == TokenKind::Symbol && t.text == symbol;
}

class Looker {
  public:
    explicit Looker(const session::Session& session) : session_(session) {}

    std::vector<HeldOff> run() {
        std::vector<HeldOff> out;
        for (std::size_t c = 0; c < session_.model().controllers.size(); ++c) {
            const logic::Program& program = *session_.model().controllers[c].program;
            const std::byte* memory = session_.controller(static_cast<int>(c)).memory.data();
            for (const logic::Variable& v : program.variables) {
                if (!v.is_tag || v.type != logic::Elementary::Bool || v.constant ||
                    logic::read_number(memory, v.type, v.offset, v.bit) != 0.0)
                    continue;
                const logic::UseSite* writer = nullptr;
                int writers = 0;
                for (const logic::UseSite& use : *v.uses) {
                    if (!use.write) continue;
                    writer = &use;
                    ++writers;
                }
                if (writers != 1) continue;
                HeldOff held{v.path, writer->place, missing(*writer)};
                if (!held.missing.empty()) out.push_back(std::move(held));
            }
        }
        return out;
    }

  private:
    const std::vector<Token>& tokens_of(const base::SourcePtr& source) {
        const auto [found, fresh] = tokens_.try_emplace(source->path);
        base::Diagnostics ignored;
        if (fresh) found->second = logic::tokenize(source, ignored);
        return found->second;
    }

    std::vector<std::string> missing(const logic::UseSite& writer) {
        const std::vector<Token>& tokens = tokens_of(writer.place.source);
        auto at = std::find_if(tokens.begin(), tokens.end(), [&](const Token& t) {
            return t.span.line == writer.place.line && t.span.column == writer.place.column;
        });
        if (at == tokens.end() || at + 1 == tokens.end() || !is_symbol(*(at + 1), ":=")) return {};
        std::vector<std::vector<Token>> terms(1);
        int open = 0;
        bool alternatives = false;
        for (at += 2; at != tokens.end() && at->kind != TokenKind::End && !is_symbol(*at, ";"); ++at) {
            if (is_symbol(*at, "(")) ++open;
            if (is_symbol(*at, ")")) --open;
            alternatives = alternatives || (open == 0 && (is_word(*at, "or") || is_word(*at, "xor")));
            if (open == 0 && (is_word(*at, "and") || is_symbol(*at, "&"))) {
                terms.emplace_back();
            } else {
                terms.back().push_back(*at);
            }
        }
        // AND binds closer than OR: then no part alone keeps the whole off.
        if (alternatives) return {};
        std::vector<std::string> out;
        for (std::vector<Token>& term : terms) {
            if (!term.empty() && is_false(writer, term)) out.push_back(text_of(writer.place.source, term));
        }
        return out;
    }

    static std::string text_of(const base::SourcePtr& source, const std::vector<Token>& term) {
        const auto begin = static_cast<std::size_t>(term.front().text.data() - source->text.data());
        const auto end =
            static_cast<std::size_t>(term.back().text.data() - source->text.data()) + term.back().text.size();
        std::string text = source->text.substr(begin, end - begin);
        std::replace(text.begin(), text.end(), '\n', ' ');
        return text;
    }

    /// Names are those of the program first, then everybody's.
    bool is_false(const logic::UseSite& writer, std::vector<Token> term) {
        Token end = term.back();
        end.kind = TokenKind::End;
        end.text = end.text.substr(end.text.size());
        term.push_back(end);
        std::vector<session::Signal> signals;
        const logic::Resolver resolver = [&](const std::string& name,
                                             const base::Place&) -> std::optional<logic::Resolved> {
            auto found = session::find_signal(session_.model(), writer.unit + "." + name);
            if (!found) found = session::find_signal(session_.model(), name);
            if (!found) return std::nullopt;
            signals.push_back(*found);
            return logic::Resolved{found->type, static_cast<int>(signals.size()) - 1};
        };
        base::Diagnostics ignored;
        logic::ConditionCompiler compiler(resolver);
        std::size_t at = 0;
        const auto number = compiler.condition(writer.place.source, term, at, ignored);
        if (!number || ignored.has_errors() || term[at].kind != TokenKind::End) return false;
        const logic::ConditionSet set = compiler.finish();
        return !Evaluator(set, signals).evaluate(*number, session_);
    }

    const session::Session& session_;
    std::map<std::string, std::vector<Token>> tokens_;
};

}  // namespace

std::vector<HeldOff> held_off(const session::Session& session) {
    return Looker(session).run();
}

}  // namespace vyard::procedure
