#include "report/address_page.hpp"

#include <fmt/format.h>

namespace vyard::report {

namespace {

struct AreaName {
    logic::Area area;
    const char* name;
    char letter;
};
constexpr AreaName kAreas[] = {
    {logic::Area::Input, "inputs", 'I'}, {logic::Area::Output, "outputs", 'Q'}, {logic::Area::Memory, "memory", 'M'}};

std::string bits_text(const logic::AddressByte& byte, const std::vector<logic::Located>& located) {
    std::string out;
    for (int bit = 7; bit >= 0; --bit) {
        const int owner = base::at(byte.owners, bit);
        out += owner < 0 ? '.' : base::at(located, owner).taken_twice() ? '!' : '#';
        if (bit == 4) out += ' ';
    }
    return out;
}

}  // namespace

std::string address_page(const logic::Program& program) {
    const std::vector<logic::Located> located = logic::located_tags(program);
    std::string out;
    for (const AreaName& area : kAreas) {
        const auto bytes = logic::bytes_of(located, area.area);
        if (bytes.empty()) continue;
        std::vector<std::string> names(bytes.size());
        for (const logic::Located& l : located) {
            if (l.area != area.area) continue;
            std::string& line = names[l.first_bit / 8];
            const std::string sharing = logic::sharing_text(located, l);
            line.append(fmt::format("{}{} {}{}", line.empty() ? "" : ", ", l.address.text().substr(2),
                                    l.variable >= 0 ? l.name : "in the logic",
                                    sharing.empty() ? "" : " (" + sharing + ")"));
        }
        std::size_t taken = 0;
        std::string lines;
        for (const logic::AddressByte& byte : bytes) {
            std::size_t here = 0;
            for (const int owner : byte.owners) here += owner >= 0 ? 1U : 0U;
            taken += here;
            if (here == 0) continue;
            lines += fmt::format("  %{}B{:<4} {}  {}\n", area.letter, byte.number, bits_text(byte, located),
                                 names[byte.number]);
        }
        out +=
            fmt::format("{} (%{}): {} bits taken, {} free up to %{}B{}; # taken, . free, ! taken twice\n{}", area.name,
                        area.letter, taken, bytes.size() * 8 - taken, area.letter, bytes.size() - 1, lines);
    }
    return out.empty() ? "no tag has an address\n" : out;
}

}  // namespace vyard::report
