#include "live/watching.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

namespace vyard::live {

namespace {

/// Linear in both for one star; the last star alone is gone back to.
bool fits(std::string_view pattern, std::string_view name) {
    std::size_t p = 0, n = 0, star = std::string_view::npos, after = 0;
    while (n < name.size()) {
        if (p < pattern.size() && (pattern[p] == '?' || (pattern[p] != '*' && pattern[p] == name[n]))) {
            ++p;
            ++n;
        } else if (p < pattern.size() && pattern[p] == '*') {
            star = p++;
            after = n;
        } else if (star != std::string_view::npos) {
            p = star + 1;
            n = ++after;
        } else {
            return false;
        }
    }
    while (p < pattern.size() && pattern[p] == '*') ++p;
    return p == pattern.size();
}

std::vector<std::string> split_words(const std::string& text) {
    std::vector<std::string> out;
    std::size_t at = 0;
    while ((at = text.find_first_not_of(" \t\r", at)) != std::string::npos) {
        const std::size_t end = std::min(text.find_first_of(" \t\r", at), text.size());
        out.push_back(text.substr(at, end - at));
        at = end;
    }
    return out;
}

/// Takes a quantity off the end of the words, behind `word`: "band 5 mm", "every 500ms".
std::optional<std::string> take_behind(std::vector<std::string>& words, const char* word) {
    for (std::size_t back = 2; back <= 3 && back <= words.size(); ++back) {
        const std::size_t at = words.size() - back;
        if (base::fold(words[at]) != word) continue;
        std::string out;
        for (std::size_t i = at + 1; i < words.size(); ++i) out += (out.empty() ? "" : " ") + words[i];
        words.resize(at);
        return out;
    }
    return std::nullopt;
}

constexpr int kOnly = 0;  // an order that is read alone has one condition

class Reader {
  public:
    explicit Reader(const session::Session& session) : session_(session) {}

    WatchRequest read(const std::string& text) {
        std::vector<std::string> words = split_words(text);
        if (!manner(words)) return std::move(out_);
        std::string rest;
        for (const std::string& w : words) rest += (rest.empty() ? "" : " ") + w;
        if (rest.empty()) {
            out_.problem = "watch needs a name, a pattern or a condition";
            out_.hint = "watch line_run, lift_* ; watch level > 200 mm ; watch count hex";
            return std::move(out_);
        }
        if (is_condition(words)) {
            condition(rest);
        } else {
            names(rest);
        }
        if (!band_.empty() && out_.problem.empty()) band();
        return std::move(out_);
    }

  private:
    /// What stands behind the names. False after a problem.
    bool manner(std::vector<std::string>& words) {
        for (bool more = true; more;) {
            more = false;
            if (const auto band = take_behind(words, "band")) {
                band_ = *band;
                more = true;
            }
            if (const auto every = take_behind(words, "every")) {
                const auto reading = base::read_quantity(*every, base::Dimension::Time);
                if (reading.fault != base::QuantityFault::None || reading.si_value <= 0.0) {
                    out_.problem = base::quantity_message(*every, reading, base::Dimension::Time);
                    out_.hint = "watch level every 500 ms";
                    return false;
                }
                manner_.every = base::from_seconds(reading.si_value);
                more = true;
            }
            if (words.size() > 1) {
                // A signal of that name, or one more name of a list, is meant as such.
                const bool name = words[words.size() - 2].ends_with(',') ||
                                  session::find_signal(session_.model(), words.back()).has_value();
                if (const auto display = session::find_display(base::fold(words.back())); display && !name) {
                    manner_.display = *display;
                    words.pop_back();
                    more = true;
                }
            }
        }
        return true;
    }

    static bool is_condition(const std::vector<std::string>& words) {
        for (const std::string& w : words) {
            const std::string word = base::fold(w);
            if (word == "and" || word == "or" || word == "not" || word == "xor") return true;
            if (word.find_first_of("<>=()&+/") != std::string::npos) return true;
        }
        return false;
    }

    void condition(const std::string& text) {
        base::Diagnostics diagnostics;
        const auto book =
            procedure::read_order(session_.model(), base::make_source("input", "expect " + text), diagnostics);
        if (diagnostics.has_errors() || book == nullptr) {
            for (const base::Diagnostic& d : diagnostics.list()) {
                out_.problem = d.message;
                out_.hint = d.hint;
                if (d.severity == base::Severity::Error) break;
            }
            return;
        }
        Watched w;
        w.name = text;
        VYARD_CHECK(book->procedures[0].steps[0].orders[0].condition == kOnly);
        w.condition.emplace(book->conditions);
        add(std::move(w));
    }

    void names(const std::string& list) {
        NamesFound found = find_names(session_.model(), list, kMostMatches);
        for (const auto& [name, signal] : found.signals) one(name, signal);
        if (!found.problem.empty()) problem(std::move(found.problem), std::move(found.hint));
    }

    void one(const std::string& name, const session::Signal& signal) {
        Watched w;
        w.name = name;
        w.channel = trace::make_channel(session_.model(), name, signal);
        const bool whole = logic::is_integer(signal.type) || logic::is_bit_string(signal.type);
        using session::Display;
        if (manner_.display != Display::Plain && (!whole || signal.of_plant()))
            return problem(fmt::format("'{}' is {}, which has no {} form", name, logic::type_name(signal.type),
                                       session::display_names()[static_cast<std::size_t>(manner_.display)]),
                           "hex, binary, decimal, signed, time and text show whole numbers and bit strings");
        add(std::move(w));
    }

    /// In the unit of the signal, or plain.
    void band() {
        for (Watched& w : out_.watched) {
            const auto dimension = w.channel && w.channel->signal.of_plant() ? w.channel->signal.reading.dimension
                                                                             : base::Dimension::Plain;
            const auto reading = base::read_quantity(band_, dimension);
            if (!w.channel || reading.fault != base::QuantityFault::None || reading.si_value < 0.0)
                return problem(w.channel ? base::quantity_message(band_, reading, dimension)
                                         : std::string("a condition has no dead band"),
                               "watch level band 5 mm");
            w.manner.band = reading.si_value;
            w.manner.band_text = band_;
            w.last_number = w.number(session_);
        }
    }

    void add(Watched w) {
        w.manner = manner_;
        w.look(session_);
        out_.watched.push_back(std::move(w));
    }
    void problem(std::string text, std::string hint) {
        if (!out_.problem.empty()) return;
        out_.problem = std::move(text);
        out_.hint = std::move(hint);
    }

    const session::Session& session_;
    Manner manner_;
    std::string band_;
    WatchRequest out_;
};

}  // namespace

std::string Manner::text() const {
    std::string out;
    if (display != session::Display::Plain)
        out.append(" ").append(session::display_names()[static_cast<std::size_t>(display)]);
    if (!band_text.empty()) out.append(" band ").append(band_text);
    if (every.count() > 0) out.append(fmt::format(" every {} us", every.count() / 1000));
    return out;
}

std::string Watched::text(const session::Session& session) const {
    if (condition) return judged;
    if (manner.display == session::Display::Plain) return session::explained_text(session, channel->signal);
    const std::string explained = session::explained_text(session, channel->signal);
    const std::size_t why = explained.find(" (");
    return session::displayed(session, channel->signal, manner.display) +
           (why == std::string::npos ? std::string() : explained.substr(why));
}

double Watched::number(const session::Session& session) const {
    if (condition) return judged == "TRUE" ? 1.0 : 0.0;
    return session::read(session, channel->signal);
}

/// As rules and orders do: after a scan.
void Watched::judge(const session::Session& session) {
    const procedure::Answer answer = condition->evaluate(kOnly, session);
    judged = answer.unknown() ? fmt::format("cannot be computed: {}", answer.why) : answer.yes() ? "TRUE" : "FALSE";
}

bool Watched::look(const session::Session& session) {
    const bool first = last.empty();
    if (condition && (first || session.scanned())) judge(session);
    if (!first && manner.every.count() > 0 && session.now() < changed + manner.every) return false;
    const double now_number = manner.band > 0.0 ? number(session) : 0.0;
    if (!first && manner.band > 0.0 && std::abs(now_number - last_number) <= manner.band) return false;
    std::string now = text(session);
    if (now == last) return false;
    last = std::move(now);
    last_number = now_number;
    changed = session.now();
    return true;
}

WatchRequest read_watch(const session::Session& session, const std::string& text) {
    return Reader(session).read(text);
}

bool is_pattern(const std::string& text) {
    return text.find_first_of("*?") != std::string::npos;
}

bool fits_pattern(const std::string& pattern, const std::string& name) {
    return fits(base::fold(pattern), base::fold(name));
}

NamesFound find_names(const session::SessionModel& model, const std::string& list, std::size_t most) {
    NamesFound out;
    std::set<std::string> seen;
    for (const std::string& name : session::split_names(list)) {
        if (!is_pattern(name)) {
            const session::Search found = session::search(model, name);
            if (!found.signal) return {{}, found.problem, found.hint};
            out.signals.emplace_back(name, *found.signal);
            continue;
        }
        const std::size_t before = out.signals.size();
        for (const std::string& known : session::signal_names(model)) {
            if (!fits_pattern(name, known) || !seen.insert(base::fold(known)).second) continue;
            if (const auto signal = session::search(model, known).signal) out.signals.emplace_back(known, *signal);
        }
        const std::size_t count = out.signals.size() - before;
        if (count == 0) return {{}, fmt::format("no name fits '{}'", name), "* stands for any letters, ? for one"};
        if (count > most)
            return {{}, fmt::format("{} names fit '{}', more than {}", count, name, most), "write more of the name"};
    }
    return out;
}

}  // namespace vyard::live
