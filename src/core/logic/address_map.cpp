#include "core/logic/address_map.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <set>
#include <tuple>

namespace vyard::logic {

bool Located::taken_twice() const {
    return std::any_of(shared.begin(), shared.end(), [&](const Sharing& s) {
        return s.how == Overlap::Straddles || (s.how == Overlap::Same && variable >= 0);
    });
}

std::vector<Located> located_tags(const Program& program) {
    std::vector<Located> out;
    const auto add = [&](int variable, const Address& a, std::string name) {
        out.push_back({variable, a, std::move(name), a.area, a.first_bit(), a.bits(), {}});
    };
    std::set<std::tuple<Area, std::uint32_t, std::uint32_t>> named;
    for (std::size_t v = 0; v < program.variables.size(); ++v) {
        const Address& a = program.variables[v].address;
        if (a.area == Area::None) continue;
        named.insert({a.area, a.first_bit(), a.bits()});
        add(static_cast<int>(v), a, program.variables[v].path);
    }
    for (const DirectAddress& d : program.direct_addresses) {
        if (!named.contains({d.address.area, d.address.first_bit(), d.address.bits()})) add(-1, d.address, "");
    }
    std::stable_sort(out.begin(), out.end(), [](const Located& a, const Located& b) {
        return std::tuple(a.area, a.first_bit, b.bits) < std::tuple(b.area, b.first_bit, a.bits);
    });
    std::vector<std::size_t> open;
    for (std::size_t i = 0; i < out.size(); ++i) {
        std::erase_if(
            open, [&](std::size_t o) { return out[o].area != out[i].area || out[o].end_bit() <= out[i].first_bit; });
        for (const std::size_t o : open) {
            const auto note = [&](Located& to, std::size_t other) {
                if (to.shared.size() < kMaxShared)
                    to.shared.push_back({static_cast<int>(other), overlap(to.address, out[other].address)});
            };
            note(out[i], o);
            note(out[o], i);
        }
        open.push_back(i);
    }
    return out;
}

std::string sharing_text(const std::vector<Located>& located, const Located& tag) {
    static constexpr std::pair<Overlap, const char*> kWords[] = {{Overlap::Same, "the same as"},
                                                                 {Overlap::Within, "within"},
                                                                 {Overlap::Holds, "holds"},
                                                                 {Overlap::Straddles, "shares bits with"}};
    std::string out;
    for (const auto& [how, words] : kWords) {
        std::vector<std::string> names;
        for (const Sharing& s : tag.shared) {
            const Located& other = base::at(located, s.other);
            if (s.how == how)
                names.push_back(other.variable >= 0 ? other.name : other.address.text() + " in the logic");
        }
        if (!names.empty()) out.append(fmt::format("{}{} {}", out.empty() ? "" : "; ", words, fmt::join(names, ", ")));
    }
    return out;
}

std::vector<AddressByte> bytes_of(const std::vector<Located>& located, Area area) {
    std::uint32_t end = 0;
    for (const Located& l : located) {
        if (l.area == area) end = std::max(end, (l.end_bit() + 7) / 8);
    }
    std::vector<AddressByte> bytes(end);
    for (std::uint32_t b = 0; b < end; ++b) bytes[b].number = b;
    for (std::size_t i = 0; i < located.size(); ++i) {
        if (located[i].area != area) continue;
        for (std::uint32_t bit = located[i].first_bit; bit < located[i].end_bit(); ++bit)
            bytes[bit / 8].owners[bit % 8] = static_cast<int>(i);
    }
    return bytes;
}

std::vector<FreeRun> free_runs(const std::vector<Located>& located, Area area) {
    std::vector<FreeRun> out;
    std::uint32_t at = 0;
    for (const Located& l : located) {
        if (l.area != area) continue;
        if (l.first_bit > at) out.push_back({at, l.first_bit - at, false});
        at = std::max(at, l.end_bit());
    }
    if (at < kAreaLimit * 8) out.push_back({at, kAreaLimit * 8 - at, true});
    return out;
}

std::vector<Address> next_free(const std::vector<Located>& located, Area area, int bytes, int count) {
    std::vector<Address> out;
    const std::uint32_t size = bytes == 0 ? 1U : static_cast<std::uint32_t>(bytes) * 8U;
    for (const FreeRun& run : free_runs(located, area)) {
        std::uint32_t at = (run.first_bit + size - 1) / size * size;
        for (; at + size <= run.first_bit + run.bits && static_cast<int>(out.size()) < count; at += size)
            out.push_back({area, at / 8, bytes == 0 ? static_cast<int>(at % 8) : -1, bytes == 0 ? 1 : bytes});
    }
    return out;
}

}  // namespace vyard::logic
