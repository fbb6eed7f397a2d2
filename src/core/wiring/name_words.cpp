#include "core/wiring/name_words.hpp"

#include <algorithm>
#include <unordered_map>

namespace vyard::wiring {

namespace {

bool upper(char c) {
    return c >= 'A' && c <= 'Z';
}
bool lower(char c) {
    return c >= 'a' && c <= 'z';
}
bool digit(char c) {
    return c >= '0' && c <= '9';
}

/// Written out, so that both sides say the same. What is a word of its own in plain language is not in here.
const std::unordered_map<std::string, std::string>& abbreviations() {
    static const std::unordered_map<std::string, std::string> all = {{"pb", "button"},
                                                                     {"btn", "button"},
                                                                     {"sw", "switch"},
                                                                     {"ls", "endswitch"},
                                                                     {"mtr", "motor"},
                                                                     {"mot", "motor"},
                                                                     {"vlv", "valve"},
                                                                     {"lvl", "level"},
                                                                     {"temp", "temperature"},
                                                                     {"tmp", "temperature"},
                                                                     {"prs", "pressure"},
                                                                     {"pres", "pressure"},
                                                                     {"spd", "speed"},
                                                                     {"pos", "position"},
                                                                     {"cyl", "cylinder"},
                                                                     {"conv", "belt"},
                                                                     {"cnv", "belt"},
                                                                     {"conveyor", "belt"},
                                                                     {"ext", "extend"},
                                                                     {"extended", "extend"},
                                                                     {"retr", "retract"},
                                                                     {"retracted", "retract"},
                                                                     {"fwd", "forward"},
                                                                     {"rev", "reverse"},
                                                                     {"bwd", "reverse"},
                                                                     {"backward", "reverse"},
                                                                     {"fbk", "running"},
                                                                     {"fb", "running"},
                                                                     {"feedback", "running"},
                                                                     {"cmd", "run"},
                                                                     {"hi", "high"},
                                                                     {"lo", "low"},
                                                                     {"es", "estop"},
                                                                     {"emg", "estop"},
                                                                     {"emergency", "estop"},
                                                                     {"cnt", "count"},
                                                                     {"ctr", "count"},
                                                                     {"lt", "lamp"},
                                                                     {"lmp", "lamp"},
                                                                     {"light", "lamp"},
                                                                     {"pl", "lamp"},
                                                                     {"pe", "eye"},
                                                                     {"photoeye", "eye"},
                                                                     {"sens", "signal"},
                                                                     {"sensor", "signal"},
                                                                     {"prox", "proximity"},
                                                                     {"opn", "open"},
                                                                     {"opened", "open"},
                                                                     {"cls", "closed"},
                                                                     {"close", "closed"},
                                                                     {"clsd", "closed"},
                                                                     {"sel", "selector"},
                                                                     {"pot", "potentiometer"},
                                                                     {"agit", "agitator"},
                                                                     {"ovl", "overload"},
                                                                     {"ol", "overload"},
                                                                     {"oload", "overload"},
                                                                     {"stp", "stop"},
                                                                     {"strt", "start"},
                                                                     {"rst", "reset"},
                                                                     {"mod", "mode"},
                                                                     {"jam", "jammed"},
                                                                     {"flt", "fault"},
                                                                     {"err", "fault"},
                                                                     {"rdy", "ready"},
                                                                     {"ena", "enable"},
                                                                     {"en", "enable"},
                                                                     {"ref", "setpoint"},
                                                                     {"sp", "setpoint"},
                                                                     {"pv", "value"},
                                                                     {"act", "value"},
                                                                     {"wt", "weight"},
                                                                     {"enc", "encoder"},
                                                                     {"grp", "grip"},
                                                                     {"clmp", "clamp"},
                                                                     {"psh", "push"},
                                                                     {"pusher", "push"},
                                                                     {"stopper", "stop"},
                                                                     {"auto", "automatic"},
                                                                     {"man", "manual"},
                                                                     {"up", "up"},
                                                                     {"dn", "down"}};
    return all;
}

/// Damerau and Levenshtein's distance with neighbours swapped at most once (optimal string alignment).
std::size_t distance(const std::string& a, const std::string& b) {
    std::vector<std::size_t> before(b.size() + 1), last(b.size() + 1), now(b.size() + 1);
    for (std::size_t j = 0; j <= b.size(); ++j) last[j] = j;
    for (std::size_t i = 1; i <= a.size(); ++i) {
        now[0] = i;
        for (std::size_t j = 1; j <= b.size(); ++j) {
            const std::size_t other = a[i - 1] == b[j - 1] ? 0 : 1;
            now[j] = std::min({last[j] + 1, now[j - 1] + 1, last[j - 1] + other});
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                now[j] = std::min(now[j], before[j - 2] + 1);
        }
        before.swap(last);
        last.swap(now);
    }
    return last[b.size()];
}

}  // namespace

std::vector<std::string> words_of(std::string_view name) {
    std::vector<std::string> words;
    std::string word;
    const auto end_word = [&] {
        if (word.empty()) return;
        if (digit(word[0])) word.erase(0, std::min(word.find_first_not_of('0'), word.size() - 1));
        const auto found = abbreviations().find(word);
        words.push_back(found == abbreviations().end() ? word : found->second);
        word.clear();
    };
    for (std::size_t i = 0; i < name.size(); ++i) {
        const char c = name[i], before = i > 0 ? name[i - 1] : ' ', next = i + 1 < name.size() ? name[i + 1] : ' ';
        const bool part = upper(c) || lower(c) || digit(c) || (static_cast<unsigned char>(c) & 0x80U) != 0;
        const bool hump = upper(c) && (lower(before) || (upper(before) && lower(next)));
        if (!part || hump || digit(c) != digit(before)) end_word();
        if (part) word += upper(c) ? static_cast<char>(c - 'A' + 'a') : c;
    }
    end_word();
    return words;
}

double likeness(const std::string& a, const std::string& b) {
    if (a == b) return 1.0;
    if (a.empty() || b.empty() || digit(a[0]) || digit(b[0])) return 0.0;
    const std::size_t shorter = std::min(a.size(), b.size()), longer = std::max(a.size(), b.size());
    if (shorter < 3) return 0.0;
    if ((a.size() < b.size() ? b : a).starts_with(a.size() < b.size() ? a : b))
        return 0.7 + 0.3 * static_cast<double>(shorter) / static_cast<double>(longer);
    if (longer > 2 * shorter || longer < 5) return 0.0;
    const double alike = 1.0 - static_cast<double>(distance(a, b)) / static_cast<double>(longer);
    return alike >= 0.7 ? alike : 0.0;
}

}  // namespace vyard::wiring
