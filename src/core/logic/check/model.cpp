#include "core/logic/check/model.hpp"

#include <fmt/format.h>

#include <set>

#include "core/base/base.hpp"

namespace vyard::logic {

using E = Elementary;

const Field* Layout::find(const std::string& field) const {
    const auto found = by_name.find(base::fold(field));
    return found == by_name.end() ? nullptr : &base::at(fields, found->second);
}
Field* Layout::find(const std::string& field) {
    return const_cast<Field*>(static_cast<const Layout*>(this)->find(field));
}

bool CheckedLogic::is_enumeration(const TypeRef& t) const {
    return is_integer(t.elementary) && t.index >= 0 && type(t).kind == DerivedKind::Enumeration;
}
bool CheckedLogic::is_subrange(const TypeRef& t) const {
    return is_scalar(t.elementary) && t.index >= 0 && type(t).kind == DerivedKind::Subrange;
}

std::uint32_t CheckedLogic::size_of(const TypeRef& t) const {
    if (is_text(t.elementary)) return text_size(t.elementary, t.index);
    if (t.is(E::Array) || t.is(E::Structure)) return type(t).size;
    if (t.is(E::Block)) return block(t.index).size;
    return static_cast<std::uint32_t>(type_size(t.elementary));
}

std::uint32_t CheckedLogic::alignment_of(const TypeRef& t) const {
    if (is_text(t.elementary)) return 4;
    if (t.is(E::Array) || t.is(E::Structure)) return type(t).alignment;
    if (t.is(E::Block)) return block(t.index).alignment;
    return static_cast<std::uint32_t>(std::max(type_size(t.elementary), 1));
}

std::string CheckedLogic::text_of(const TypeRef& t) const {
    if (is_text(t.elementary))
        return t.index == kDefaultCapacity ? type_name(t.elementary)
                                           : fmt::format("{}[{}]", type_name(t.elementary), t.index);
    if (t.is(E::Block) || t.is(E::Interface)) return t.index >= 0 ? block(t.index).name : type_name(t.elementary);
    if (t.index < 0) return type_name(t.elementary);
    const DerivedType& d = type(t);
    if (!d.name.empty()) return d.name;
    switch (d.kind) {
        case DerivedKind::Enumeration: return "an enumeration";
        case DerivedKind::Subrange: return fmt::format("{}({}..{})", type_name(d.base), d.low, d.high);
        case DerivedKind::Structure: return "a structure";
        case DerivedKind::Reference: return "REF_TO " + text_of(d.element);
        case DerivedKind::Array: {
            std::string out = "ARRAY[";
            for (const Dimension& n : d.dimensions) {
                if (out.back() != '[') out += ", ";
                out += d.open ? "*" : fmt::format("{}..{}", n.low, n.high);
            }
            return out + "] OF " + text_of(d.element);
        }
    }
    return {};
}

namespace {

void add_fields(const CheckedLogic& logic, const std::vector<Field>& fields, std::string& out) {
    for (const Field& f : fields)
        out +=
            fmt::format("{}@{}.{}:{};", base::fold(f.name), f.binding.offset, f.binding.bit, logic.layout_text(f.type));
}

}  // namespace

std::string CheckedLogic::layout_text(const TypeRef& t) const {
    if (is_text(t.elementary)) return fmt::format("{}[{}]", type_name(t.elementary), t.index);
    if (t.is(E::Block)) {
        const Layout& b = block(t.index);
        std::string out = b.standard ? b.name : std::string("BLOCK");
        add_fields(*this, b.fields, out);
        return out;
    }
    if (t.index < 0 || t.is(E::Interface)) return type_name(t.elementary);
    const DerivedType& d = type(t);
    std::string out = type_name(t.elementary);
    switch (d.kind) {
        case DerivedKind::Enumeration:
            for (const EnumConstant& c : d.values) out += fmt::format(" {}={}", base::fold(c.name), c.value);
            break;
        case DerivedKind::Subrange: out += fmt::format("({}..{})", d.low, d.high); break;
        case DerivedKind::Structure: add_fields(*this, d.fields, out); break;
        case DerivedKind::Reference: break;
        case DerivedKind::Array:
            for (const Dimension& n : d.dimensions) out += fmt::format("[{}..{}]", n.low, n.high);
            out += fmt::format("*{} {}", d.stride, layout_text(d.element));
            break;
    }
    return out;
}

bool CheckedLogic::same(const TypeRef& a, const TypeRef& b) const {
    if (a == b) return true;
    if (a.elementary != b.elementary) return false;
    if (is_text(a.elementary)) return true;
    if (a.index < 0 || b.index < 0 || a.is(E::Block) || a.is(E::Interface)) return false;
    const DerivedType& x = type(a);
    const DerivedType& y = type(b);
    if (x.root == y.root) return true;
    if (x.kind != y.kind) return false;
    if (x.kind == DerivedKind::Reference) return same(x.element, y.element);
    if (x.kind != DerivedKind::Array || x.dimensions.size() != y.dimensions.size() || x.stride != y.stride ||
        !same(x.element, y.element))
        return false;
    // Elements are copied as bytes, the room of a text among them.
    if (is_text(x.element.elementary) && x.element.index != y.element.index) return false;
    for (std::size_t i = 0; i < x.dimensions.size(); ++i) {
        if (x.dimensions[i].low != y.dimensions[i].low || x.dimensions[i].high != y.dimensions[i].high) return false;
    }
    return true;
}

bool CheckedLogic::is_kind_of(int number, int wanted, int depth) const {
    for (int hops = 0; number >= 0 && hops < 64 && depth < kMaxInheritance; ++hops) {
        if (number == wanted) return true;
        const Layout& layout = block(number);
        for (const int i : layout.interfaces) {
            if (i != number && is_kind_of(i, wanted, depth + 1)) return true;
        }
        number = layout.parent;
    }
    return false;
}

std::uint64_t CheckedLogic::parts_of(const TypeRef& t) const {
    if (t.is(E::Block)) return block(t.index).parts;
    if (t.is(E::Array)) return parts_of(type(t).element);
    return t.is(E::Structure) ? type(t).parts : 1;
}

bool CheckedLogic::holds_timer(int block) const {
    std::vector<int> left{block};
    std::set<int> seen{block};
    while (!left.empty()) {
        const Layout& layout = this->block(left.back());
        left.pop_back();
        if (layout.standard == Op::TimerOn || layout.standard == Op::TimerOff || layout.standard == Op::TimerPulse)
            return true;
        for (const Field& f : layout.fields) {
            const TypeRef t = f.type.is(Elementary::Array) ? type(f.type).element : f.type;
            const bool inside =
                t.is(Elementary::Block) && f.section != Section::InOut && f.section != Section::External;
            if (inside && seen.insert(t.index).second) left.push_back(t.index);
        }
    }
    return false;
}

int CheckedLogic::find_method(int number, const std::string& folded, int depth) const {
    for (int hops = 0; number >= 0 && hops < 64 && depth < kMaxInheritance; ++hops) {
        const Layout& layout = block(number);
        for (const int m : layout.methods) {
            if (base::fold(block(m).unit->name) == folded) return m;
        }
        if (layout.kind == LayoutKind::Interface) {
            for (const int i : layout.interfaces) {
                const int found = i != number ? find_method(i, folded, depth + 1) : -1;
                if (found >= 0) return found;
            }
        }
        number = layout.parent;
    }
    return -1;
}

}  // namespace vyard::logic
