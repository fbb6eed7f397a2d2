#include "core/logic/address_map.hpp"

#include <algorithm>

namespace vyard::logic {

std::vector<Located> located_tags(const Program& program) {
    std::vector<Located> out;
    for (std::size_t v = 0; v < program.variables.size(); ++v) {
        const Address& a = program.variables[v].address;
        if (a.area == Area::None) continue;
        const bool bit = a.bit >= 0;
        out.push_back({static_cast<int>(v), a.area, a.byte * 8 + (bit ? static_cast<std::uint32_t>(a.bit) : 0U),
                       bit ? 1U : static_cast<std::uint32_t>(a.size) * 8U, false});
    }
    std::stable_sort(out.begin(), out.end(), [](const Located& a, const Located& b) {
        return std::pair(a.area, a.first_bit) < std::pair(b.area, b.first_bit);
    });
    // Sorted by first bit, so a tag overlaps whatever ended last when that ends behind its start.
    std::size_t furthest = 0;
    for (std::size_t i = 1; i < out.size(); ++i) {
        if (out[furthest].area == out[i].area && out[furthest].end_bit() > out[i].first_bit)
            out[furthest].overlaps = out[i].overlaps = true;
        if (out[furthest].area != out[i].area || out[i].end_bit() > out[furthest].end_bit()) furthest = i;
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
