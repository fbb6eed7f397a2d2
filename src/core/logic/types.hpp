// The data types of the language and how they lie in memory.
//
// Elementary types are IEC 61131-3 table 10. Derived types (arrays, structures, enumerations ...) are rows of a table
// that belongs to the checked logic; a TypeRef names one by number. An enumeration or a subrange keeps the elementary
// type of its values, so that code treats it as that. AnyInt and AnyReal are the types of literals that have not met a
// typed neighbour yet; no variable ever has them.
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
    Time,  ///< 64-bit signed nanoseconds, as are all times and dates.
    Ltime,
    Date,  ///< Since 1970-01-01.
    Ldate,
    Tod,  ///< Since midnight.
    Ltod,
    Dt,  ///< Since 1970-01-01-00:00:00.
    Ldt,
    Char,
    Wchar,
    String,   ///< TypeRef::index is the capacity in characters.
    Wstring,  ///< In UTF-16 units.
    Array,
    Structure,
    Reference,
    Block,      ///< A function block instance; TypeRef::index is the number of the block.
    Interface,  ///< A reference to any instance that implements block number `index`.
    AnyInt,
    AnyReal,
    Null,
    Void,
};

/// A type: an elementary one, or what `index` names (a derived type, a block, a capacity).
struct TypeRef {
    Elementary elementary = Elementary::None;
    int index = -1;
    int text_default = -1;  ///< Of a text: the row of the named type whose initial value it has.

    bool operator==(const TypeRef& other) const { return elementary == other.elementary && index == other.index; }
    bool is(Elementary e) const { return elementary == e; }
};

/// How the machine sees a value; one set of operations for each.
enum class Representation : std::uint8_t { I8, I16, I32, I64, U8, U16, U32, U64, F32, F64 };

const char* type_name(Elementary type);
/// Elementary types by any of their names: TOD, TIME_OF_DAY ...
std::optional<Elementary> find_type(std::string_view name);

/// Bytes in memory: 1, 2, 4 or 8; references and interfaces 4. Others have none (0).
int type_size(Elementary type);
Representation representation(Elementary type);

bool is_signed_integer(Elementary type);
bool is_unsigned_integer(Elementary type);
bool is_integer(Elementary type);     ///< Signed and unsigned, and AnyInt.
bool is_real(Elementary type);        ///< REAL, LREAL and AnyReal.
bool is_number(Elementary type);      ///< Integers and reals.
bool is_bit_string(Elementary type);  ///< BYTE ... LWORD; BOOL is not counted here.
bool is_duration(Elementary type);    ///< TIME, LTIME.
bool is_moment(Elementary type);      ///< Dates, times of day, dates and times.
bool is_text(Elementary type);        ///< STRING, WSTRING.
bool is_character(Elementary type);   ///< CHAR, WCHAR.
bool is_scalar(Elementary type);      ///< Held in 1, 2, 4 or 8 bytes with a meaning of its own: no reference.

constexpr int kDefaultCapacity = 80;    ///< Of a STRING without a length.
constexpr int kMaxCapacity = 16'000;    ///< Of any text; bounds the machine's buffer on the stack.
constexpr std::uint32_t kTextHead = 4;  ///< A text starts with its capacity and its length, two bytes each.
/// Bytes of a text in memory.
std::uint32_t text_size(Elementary type, int capacity);

/// Whether `from` becomes `to` without being asked: no value is lost (IEC 61131-3, figure 12).
bool widens(Elementary from, Elementary to);
/// The smallest type that both widen to; None when there is none.
Elementary common_type(Elementary a, Elementary b);

/// Whether the whole number fits the type; `negative` with `magnitude` its absolute value.
bool literal_fits(Elementary type, std::uint64_t magnitude, bool negative);

}  // namespace vyard::logic
