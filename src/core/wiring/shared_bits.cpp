#include "core/wiring/shared_bits.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <tuple>

namespace vyard::wiring {

void BitRuns::settle() {
    std::sort(runs_.begin(), runs_.end(), [](const Run& a, const Run& b) {
        return std::pair(a.controller, a.first) < std::pair(b.controller, b.first);
    });
    std::vector<Run> merged;
    for (const Run& r : runs_) {
        if (!merged.empty() && merged.back().controller == r.controller && merged.back().end >= r.first)
            merged.back().end = std::max(merged.back().end, r.end);
        else
            merged.push_back(r);
    }
    runs_ = std::move(merged);
}

bool BitRuns::touch(int controller, std::uint32_t first, std::uint32_t end) const {
    const auto behind = std::partition_point(runs_.begin(), runs_.end(), [&](const Run& r) {
        return std::pair(r.controller, r.end) <= std::pair(controller, first);
    });
    return behind != runs_.end() && behind->controller == controller && behind->first < end;
}

std::pair<std::uint32_t, std::uint32_t> bits_of(const logic::Variable& v) {
    const std::uint32_t first = v.offset * 8 + static_cast<std::uint32_t>(std::max(v.bit, 0));
    return {first, first + (v.bit >= 0 ? 1U : static_cast<std::uint32_t>(logic::type_size(v.type)) * 8U)};
}

void check_shared_bits(std::vector<JoinedBits> joined, base::Diagnostics& diagnostics) {
    std::stable_sort(joined.begin(), joined.end(), [](const JoinedBits& a, const JoinedBits& b) {
        return std::pair(a.controller, a.bits.first) < std::pair(b.controller, b.bits.first);
    });
    std::vector<const JoinedBits*> open;
    for (const JoinedBits& b : joined) {
        std::erase_if(open, [&](const JoinedBits* o) {
            return o->controller != b.controller || logic::overlap(o->bits, b.bits) == logic::Overlap::None;
        });
        for (const JoinedBits* o : open) {
            const bool straddles = logic::overlap(o->bits, b.bits) == logic::Overlap::Straddles;
            if (!straddles && !(o->input && b.input)) continue;
            const auto [earlier, later] =
                std::minmax(*o, b, [](const JoinedBits& x, const JoinedBits& y) { return x.order < y.order; });
            diagnostics.error(base::Code::AddressOverlap, later.place,
                              fmt::format("'{}' and '{}' share {}; first at {}", later.name, earlier.name,
                                          straddles ? "some of their bits, and not all, and both are joined"
                                                    : "bits, and both are written from outside",
                                          earlier.place.text()));
        }
        open.push_back(&b);
    }
}

BitRuns runs_of(const std::vector<JoinedBits>& joined) {
    BitRuns out;
    for (const JoinedBits& b : joined) out.add(b.controller, b.bits.first, b.bits.second);
    out.settle();
    return out;
}

BitRuns written_bits(const std::vector<controller::ControllerModel>& controllers) {
    BitRuns out;
    for (std::size_t c = 0; c < controllers.size(); ++c) {
        const logic::Program& program = *controllers[c].program;
        const int number = static_cast<int>(c);
        for (const logic::Variable& v : program.variables) {
            if (v.address.area == logic::Area::None || !v.written) continue;
            const auto [first, end] = bits_of(v);
            out.add(number, first, end);
        }
        for (const logic::DirectAddress& d : program.direct_addresses) {
            const logic::Range& area = d.address.area == logic::Area::Input    ? program.inputs
                                       : d.address.area == logic::Area::Output ? program.outputs
                                                                               : program.markers;
            if (std::any_of(d.uses.begin(), d.uses.end(), [](const logic::UseSite& u) { return u.write; }))
                out.add(number, area.begin * 8 + d.address.first_bit(), area.begin * 8 + d.address.end_bit());
        }
    }
    out.settle();
    return out;
}

}  // namespace vyard::wiring
