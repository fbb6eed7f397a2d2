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
    {"nothing", 0, Representation::U8},       {"BOOL", 1, Representation::U8},
    {"BYTE", 1, Representation::U8},          {"WORD", 2, Representation::U16},
    {"DWORD", 4, Representation::U32},        {"LWORD", 8, Representation::U64},
    {"SINT", 1, Representation::I8},          {"INT", 2, Representation::I16},
    {"DINT", 4, Representation::I32},         {"LINT", 8, Representation::I64},
    {"USINT", 1, Representation::U8},         {"UINT", 2, Representation::U16},
    {"UDINT", 4, Representation::U32},        {"ULINT", 8, Representation::U64},
    {"REAL", 4, Representation::F32},         {"LREAL", 8, Representation::F64},
    {"TIME", 8, Representation::I64},         {"LTIME", 8, Representation::I64},
    {"DATE", 8, Representation::I64},         {"LDATE", 8, Representation::I64},
    {"TOD", 8, Representation::I64},          {"LTOD", 8, Representation::I64},
    {"DT", 8, Representation::I64},           {"LDT", 8, Representation::I64},
    {"CHAR", 1, Representation::U8},          {"WCHAR", 2, Representation::U16},
    {"STRING", 0, Representation::U8},        {"WSTRING", 0, Representation::U16},
    {"an array", 0, Representation::U8},      {"a structure", 0, Representation::U8},
    {"a reference", 4, Representation::U32},  {"function block", 0, Representation::U8},
    {"an interface", 4, Representation::U32}, {"integer", 0, Representation::I64},
    {"real", 0, Representation::F64},         {"NULL", 4, Representation::U32},
    {"no value", 0, Representation::U8},
});

struct OtherName {
    const char* name;
    Elementary type;
};
constexpr OtherName kOtherNames[] = {{"time_of_day", Elementary::Tod},
                                     {"ltime_of_day", Elementary::Ltod},
                                     {"date_and_time", Elementary::Dt},
                                     {"ldate_and_time", Elementary::Ldt}};

const TypeInfo& info(Elementary type) {
    return base::at(kTypes, type);
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
    for (auto e = static_cast<int>(Elementary::Bool); e <= static_cast<int>(Elementary::Wstring); ++e) {
        if (base::fold(base::at(kTypes, e).name) == wanted) return static_cast<Elementary>(e);
    }
    for (const OtherName& other : kOtherNames) {
        if (other.name == wanted) return other.type;
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

bool is_duration(Elementary t) {
    return t == Elementary::Time || t == Elementary::Ltime;
}
bool is_moment(Elementary t) {
    return t >= Elementary::Date && t <= Elementary::Ldt;
}
bool is_text(Elementary t) {
    return t == Elementary::String || t == Elementary::Wstring;
}
bool is_character(Elementary t) {
    return t == Elementary::Char || t == Elementary::Wchar;
}
bool is_scalar(Elementary t) {
    return t >= Elementary::Bool && t <= Elementary::Wchar;
}

std::uint32_t text_size(Elementary type, int capacity) {
    const auto units = static_cast<std::uint32_t>(capacity) * (type == Elementary::Wstring ? 2U : 1U);
    return (kTextHead + units + 3) / 4 * 4;
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
    // The long forms of times and dates follow the short ones.
    if (is_duration(from) || is_moment(from))
        return static_cast<int>(to) == static_cast<int>(from) + 1 &&
               (static_cast<int>(from) % 2) == (static_cast<int>(Elementary::Time) % 2);
    if (from == Elementary::Char) return to == Elementary::String;
    if (from == Elementary::Wchar) return to == Elementary::Wstring;
    if (from == Elementary::Null) return to == Elementary::Reference || to == Elementary::Interface;
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
    if (is_signed_integer(type) || is_duration(type) || is_moment(type)) {
        const std::uint64_t limit = std::uint64_t{1} << (bits - 1);
        return negative ? magnitude <= limit : magnitude < limit;
    }
    if (negative && magnitude != 0) return false;
    if (type == Elementary::Bool) return magnitude <= 1;
    return bits == 64 || magnitude < (std::uint64_t{1} << bits);
}

}  // namespace vyard::logic
