// The data types of the language and how they lie in memory.
//
// Elementary types are IEC 61131-3 table 10. AnyInt and AnyReal are the types of literals that have not met a typed
// neighbour yet; no variable ever has them.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace vyard::logic {

enum class Elementary : std::uint8_t {
    None,
    Bool,
    Byte,
    Word,
    Dword,
    Lword,
    Sint,
    Int,
    Dint,
    Lint,
    Usint,
    Uint,
    Udint,
    Ulint,
    Real,
    Lreal,
    Time,   ///< 64-bit signed nanoseconds.
    Block,  ///< A function block instance.
    AnyInt,
    AnyReal,
};

/// A type: elementary, or an instance of block number `block` of the checked unit.
struct TypeRef {
    Elementary elementary = Elementary::None;
    int block = -1;

    bool operator==(const TypeRef&) const = default;
    bool is(Elementary e) const { return elementary == e; }
};

/// How the machine sees a value; one set of operations for each.
enum class Representation : std::uint8_t { I8, I16, I32, I64, U8, U16, U32, U64, F32, F64 };

const char* type_name(Elementary type);
std::optional<Elementary> find_type(std::string_view name);

/// Bytes in memory: 1, 2, 4 or 8. Blocks and literal types have none (0).
int type_size(Elementary type);
Representation representation(Elementary type);

bool is_signed_integer(Elementary type);
bool is_unsigned_integer(Elementary type);
bool is_integer(Elementary type);     ///< Signed and unsigned, and AnyInt.
bool is_real(Elementary type);        ///< REAL, LREAL and AnyReal.
bool is_number(Elementary type);      ///< Integers and reals.
bool is_bit_string(Elementary type);  ///< BYTE ... LWORD; BOOL is not counted here.

/// Whether `from` becomes `to` without being asked: no value is lost (IEC 61131-3, figure 12).
bool widens(Elementary from, Elementary to);
/// The smallest type that both widen to; None when there is none.
Elementary common_type(Elementary a, Elementary b);

/// Whether the whole number fits the type; `negative` with `magnitude` its absolute value.
bool literal_fits(Elementary type, std::uint64_t magnitude, bool negative);

}  // namespace vyard::logic
