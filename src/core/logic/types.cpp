#include "core/logic/types.hpp"

#include <array>

#include "core/base/base.hpp"

namespace vyard::logic {

namespace {

struct TypeInfo {
    const char* name;
    int size;
    Representation representation;
};

constexpr auto kTypes = std::to_array<TypeInfo>({
    {"nothing", 0, Representation::U8},  {"BOOL", 1, Representation::U8},   {"BYTE", 1, Representation::U8},
    {"WORD", 2, Representation::U16},    {"DWORD", 4, Representation::U32}, {"LWORD", 8, Representation::U64},
    {"SINT", 1, Representation::I8},     {"INT", 2, Representation::I16},   {"DINT", 4, Representation::I32},
    {"LINT", 8, Representation::I64},    {"USINT", 1, Representation::U8},  {"UINT", 2, Representation::U16},
    {"UDINT", 4, Representation::U32},   {"ULINT", 8, Representation::U64}, {"REAL", 4, Representation::F32},
    {"LREAL", 8, Representation::F64},   {"TIME", 8, Representation::I64},  {"function block", 0, Representation::U8},
    {"integer", 0, Representation::I64}, {"real", 0, Representation::F64},
});

const TypeInfo& info(Elementary type) {
    return kTypes[static_cast<std::size_t>(type)];
}

}  // namespace

const char* type_name(Elementary type) {
    return info(type).name;
}
int type_size(Elementary type) {
    return info(type).size;
}
Representation representation(Elementary type) {
    return info(type).representation;
}

std::optional<Elementary> find_type(std::string_view name) {
    const std::string wanted = base::fold(name);
    for (auto e = static_cast<int>(Elementary::Bool); e <= static_cast<int>(Elementary::Time); ++e) {
        if (base::fold(kTypes[static_cast<std::size_t>(e)].name) == wanted) return static_cast<Elementary>(e);
    }
    return std::nullopt;
}

bool is_signed_integer(Elementary t) {
    return t >= Elementary::Sint && t <= Elementary::Lint;
}
bool is_unsigned_integer(Elementary t) {
    return t >= Elementary::Usint && t <= Elementary::Ulint;
}
bool is_integer(Elementary t) {
    return is_signed_integer(t) || is_unsigned_integer(t) || t == Elementary::AnyInt;
}
bool is_real(Elementary t) {
    return t == Elementary::Real || t == Elementary::Lreal || t == Elementary::AnyReal;
}
bool is_number(Elementary t) {
    return is_integer(t) || is_real(t);
}
bool is_bit_string(Elementary t) {
    return t >= Elementary::Byte && t <= Elementary::Lword;
}

bool widens(Elementary from, Elementary to) {
    if (from == to) return true;
    if (from == Elementary::AnyInt) return is_number(to) || is_bit_string(to);
    if (from == Elementary::AnyReal) return is_real(to);
    if (is_bit_string(from) && is_bit_string(to)) return type_size(from) < type_size(to);
    if (is_signed_integer(from) && is_signed_integer(to)) return type_size(from) < type_size(to);
    if (is_unsigned_integer(from) && is_integer(to)) return type_size(from) < type_size(to);
    if (is_integer(from) && to == Elementary::Real) return type_size(from) <= 2;
    if (is_integer(from) && to == Elementary::Lreal) return type_size(from) <= 4;
    return from == Elementary::Real && to == Elementary::Lreal;
}

Elementary common_type(Elementary a, Elementary b) {
    if (widens(a, b)) return b;
    if (widens(b, a)) return a;
    for (const Elementary t :
         {Elementary::Int, Elementary::Dint, Elementary::Lint, Elementary::Real, Elementary::Lreal}) {
        if (widens(a, t) && widens(b, t)) return t;
    }
    return Elementary::None;
}

bool literal_fits(Elementary type, std::uint64_t magnitude, bool negative) {
    if (is_real(type) || type == Elementary::AnyInt) return true;
    const int bits = type_size(type) * 8;
    if (is_signed_integer(type) || type == Elementary::Time) {
        const std::uint64_t limit = std::uint64_t{1} << (bits - 1);
        return negative ? magnitude <= limit : magnitude < limit;
    }
    if (negative && magnitude != 0) return false;
    if (type == Elementary::Bool) return magnitude <= 1;
    return bits == 64 || magnitude < (std::uint64_t{1} << bits);
}

}  // namespace vyard::logic
