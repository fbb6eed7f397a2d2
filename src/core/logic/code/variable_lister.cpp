#include "core/logic/code/variable_lister.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <tuple>

#include "core/logic/library/standard_blocks.hpp"

namespace vyard::logic {

using E = Elementary;

void VariableLister::globals() {
    fields(logic_.globals, bases_.globals, "", false, Keeping::None, false);
}

void VariableLister::instance(const Layout& layout, std::uint32_t base, const std::string& prefix) {
    std::copy(layout.image.begin(), layout.image.end(), memory_.begin() + base);
    fields(layout, base, prefix, false, Keeping::None, false);
}

void VariableLister::fields(const Layout& layout, std::uint32_t base, const std::string& prefix, bool nested,
                            Keeping keeping, bool stored) {
    for (const Field& f : layout.fields) {
        if (f.section == Section::External || f.section == Section::Temp || f.section == Section::InOut ||
            f.binding.space == Space::None || f.type.is(E::None))
            continue;
        const bool located = f.binding.space != Space::Instance && f.binding.space != Space::Globals;
        const std::uint32_t offset =
            (f.binding.space == Space::Instance ? base : bases_.of(f.binding.space)) + f.binding.offset;
        if (located || f.binding.space == Space::Globals) {
            // Instances come with their image; these do not.
            if (f.binding.bit >= 0) {
                if (!f.initial.empty() && f.initial[0] != std::byte{0})
                    write_number(memory_.data(), E::Bool, offset, f.binding.bit, 1.0);
            } else {
                std::copy(f.initial.begin(), f.initial.end(), memory_.begin() + offset);
            }
        }
        const bool tag = !nested && (f.section == Section::Global || f.address.has_value());
        list({prefix + f.name, f.type, offset, f.binding.bit, &f, tag, std::max(keeping, keeping_of(f)), stored});
    }
}

void VariableLister::store(const Item& item, std::uint32_t size) {
    if (item.stored) return;
    const bool address = item.type.is(E::Reference) || item.type.is(E::Interface);
    program_.storage.push_back({item.path, logic_.layout_text(item.type), item.offset, size, item.bit,
                                item.keeping != Keeping::None, item.keeping == Keeping::Persistent, address});
}

void VariableLister::list(const Item& item) {
    if (item.type.is(E::Block)) return list_block(item);
    if (item.type.is(E::Array)) return list_array(item);
    if (item.type.is(E::Structure)) {
        for (const Field& f : logic_.type(item.type).fields)
            list({item.path + "." + f.name, f.type, item.offset + f.binding.offset, -1, item.root, item.tag,
                  item.keeping, item.stored});
        return;
    }
    store(item, logic_.size_of(item.type));
    if (!is_scalar(item.type.elementary) && !is_text(item.type.elementary)) return;
    Variable v;
    v.path = item.path;
    v.type = item.type.elementary;
    v.type_text = logic_.text_of(item.type);
    v.offset = item.offset;
    v.bit = item.bit;
    const Field& f = *item.root;
    v.section = f.section;
    if (f.address) v.address = *f.address;
    if (f.address && f.type.is(E::Array)) {  // an element has its own address
        v.address.byte += item.offset - (bases_.of(f.binding.space) + f.binding.offset);
        v.address.size = type_size(v.type);
    }
    v.is_tag = item.tag;
    if (logic_.is_enumeration(item.type)) v.names = names_of(item.type.index);
    if (!f.case_names.empty() && f.type.elementary == item.type.elementary)
        v.case_names = std::make_shared<const ValueNames>(f.case_names.begin(), f.case_names.end());
    v.constant = f.constant;
    v.retain = item.keeping != Keeping::None;
    v.persistent = item.keeping == Keeping::Persistent;
    if (item.tag) v.uses = uses_of(f);
    v.read = f.read;
    v.written = f.written;
    if (f.declaration != nullptr) {
        v.place = place_in(f.source, f.declaration->span);
        v.description = f.declaration->description;
    }
    program_.by_path.emplace(base::fold(v.path), static_cast<int>(program_.variables.size()));
    program_.variables.push_back(std::move(v));
}

std::shared_ptr<const std::vector<UseSite>> VariableLister::uses_of(const Field& field) {
    auto& known = uses_[&field];
    if (known == nullptr) known = std::make_shared<const std::vector<UseSite>>(each_once(field.uses));
    return known;
}

void VariableLister::direct_addresses() {
    std::map<std::tuple<Area, std::uint32_t, std::uint32_t>, DirectAddress> by_place;
    for (const DirectUse& use : logic_.direct_uses) {
        DirectAddress& d = by_place[{use.address.area, use.address.first_bit(), use.address.bits()}];
        d.address = use.address;
        d.uses.push_back(use.site);
    }
    for (auto& [key, d] : by_place) program_.direct_addresses.push_back({d.address, each_once(std::move(d.uses))});
}

/// An expression may be checked twice; a place that is both read and written counts as written.
std::vector<UseSite> VariableLister::each_once(std::vector<UseSite> uses) {
    const auto key = [](const UseSite& u) { return std::tuple(u.place.source->path, u.place.line, u.place.column); };
    std::stable_sort(uses.begin(), uses.end(), [&](const UseSite& a, const UseSite& b) { return key(a) < key(b); });
    std::vector<UseSite> out;
    for (UseSite& use : uses) {
        if (!out.empty() && key(out.back()) == key(use)) {
            out.back().write = out.back().write || use.write;
        } else {
            out.push_back(std::move(use));
        }
    }
    return out;
}

std::shared_ptr<const ValueNames> VariableLister::names_of(int type) {
    auto& known = names_[type];
    if (known == nullptr) {
        auto names = std::make_shared<ValueNames>();
        for (const EnumConstant& c : base::at(logic_.types, type).values) names->emplace_back(c.value, c.name);
        known = std::move(names);
    }
    return known;
}

void VariableLister::list_array(const Item& item) {
    const DerivedType& array = logic_.type(item.type);
    const bool plain = is_scalar(array.element.elementary) || is_text(array.element.elementary);
    std::uint64_t count = 1;
    for (const Dimension& d : array.dimensions) count *= d.count();
    // A large array is one piece of state, and its first elements stand for the rest.
    const bool crowded = program_.variables.size() > kMaxVariables;
    const bool whole = plain || count > kMaxListed || crowded;
    if (whole) store(item, array.size);
    const std::uint64_t listed = crowded ? 0 : std::min(count, kMaxListed);
    for (std::uint64_t i = 0; i < listed && program_.variables.size() <= kMaxVariables; ++i) {
        std::string index;
        std::uint64_t rest = i;
        for (std::size_t k = array.dimensions.size(); k-- > 0;) {
            const Dimension& d = array.dimensions[k];
            const std::int64_t n = d.low + static_cast<std::int64_t>(rest % d.count());
            rest /= d.count();
            index = fmt::format("{}{}{}", n, index.empty() ? "" : ",", index);
        }
        list({fmt::format("{}[{}]", item.path, index), array.element,
              item.offset + static_cast<std::uint32_t>(i) * array.stride, -1, item.root, item.tag, item.keeping,
              item.stored || whole});
    }
}

void VariableLister::list_block(const Item& item) {
    const Layout& block = logic_.block(item.type.index);
    const bool standard = block.standard.has_value();
    if (standard) store(item, block.size);  // with what it does not show
    if (standard && keeps_time(*block.standard)) program_.clocks.push_back({*block.standard, item.offset});
    if (standard && *block.standard == Op::ChartStep) program_.step_times_read = time_read(block);
    fields(block, item.offset, item.path + ".", true, item.keeping, item.stored || standard);
}

bool VariableLister::time_read(const Layout& step) {
    return std::any_of(step.fields.begin(), step.fields.end(),
                       [](const Field& f) { return f.binding.offset == StepLayout::t && f.read; });
}

}  // namespace vyard::logic
