// The one list of the machine's operations. The enum, the names in listings and docs/machine.md derive from it;
// machine.cpp has one case for each.
//
// An instruction is three-address code over the flat memory of a program: `dst`, `a` and `b` are byte offsets, except
// where the effect says otherwise. Constants lie in the same memory, so every operand is read the same way. Code of
// function blocks is shared by their instances: its operands may count from the instance (kSelf).
#pragma once

#include <cstdint>

namespace vyard::logic {

/// The machine's number types: operation suffix, C++ type.
#define VYARD_INTEGER_TYPES(X) \
    X(I8, std::int8_t)         \
    X(I16, std::int16_t)       \
    X(I32, std::int32_t)       \
    X(I64, std::int64_t) X(U8, std::uint8_t) X(U16, std::uint16_t) X(U32, std::uint32_t) X(U64, std::uint64_t)
#define VYARD_REAL_TYPES(X) X(F32, float) X(F64, double)
#define VYARD_NUMBER_TYPES(X) VYARD_INTEGER_TYPES(X) VYARD_REAL_TYPES(X)

/// Operations that exist once: name, effect.
// clang-format off
#define VYARD_PLAIN_OPERATIONS(X) \
    X(End, "end of the scan's code") \
    X(Halt, "run-time fault, always: put in another's place, it tells that a scan comes by") \
    X(Jump, "go on at instruction a") \
    X(JumpIf, "go on at instruction a if byte b is not 0") \
    X(JumpUnless, "go on at instruction a if byte b is 0") \
    X(MarkJumpIf, "byte dst, or the one behind it if byte b is not 0, := 1; then as JumpIf") \
    X(MarkJumpUnless, "byte dst, or the one behind it if byte b is 0, := 1; then as JumpUnless") \
    X(LoopBack, "go on at instruction a; takes b from the scan's budget of instructions") \
    X(Call, "call the function at instruction a; takes b from the scan's budget") \
    X(CallInstance, "call the block code at instruction a for the instance at dst; takes b from the budget") \
    X(CallIndirect, "the same for the instance whose address is at dst, b bytes on") \
    X(CallMethod, "call method n of the instance whose address is at dst") \
    X(Return, "go on behind the last call") \
    X(Move8, "dst := a, 1 byte") \
    X(Move16, "dst := a, 2 bytes") \
    X(Move32, "dst := a, 4 bytes") \
    X(Move64, "dst := a, 8 bytes") \
    X(MoveIf8, "dst := a if byte b is not 0, 1 byte") \
    X(MoveIf16, "the same, 2 bytes") \
    X(MoveIf32, "the same, 4 bytes") \
    X(MoveIf64, "the same, 8 bytes") \
    X(LoadBit, "byte dst := bit b of byte a") \
    X(StoreBit, "bit b of byte dst := byte a") \
    X(CopyBytes, "dst := a, b bytes") \
    X(CopyIndirect, "what the address at dst names := what the address at a names, b bytes") \
    X(AddressOf, "dst := the address of a, moved on by b") \
    X(LoadIndirect8, "dst := what stands b bytes behind the address at a, 1 byte") \
    X(LoadIndirect16, "the same, 2 bytes") \
    X(LoadIndirect32, "the same, 4 bytes") \
    X(LoadIndirect64, "the same, 8 bytes") \
    X(StoreIndirect8, "what stands b bytes behind the address at dst := a, 1 byte") \
    X(StoreIndirect16, "the same, 2 bytes") \
    X(StoreIndirect32, "the same, 4 bytes") \
    X(StoreIndirect64, "the same, 8 bytes") \
    X(CheckReference, "run-time fault when the address at a is NULL") \
    X(CastInstance, "dst := the address at a when bit tag of the table at b is set for its block, else NULL") \
    X(BoolAnd, "dst := a and b, bytes of 0 or 1") \
    X(BoolAndNot, "dst := a and not b") \
    X(BoolOr, "dst := a or b") \
    X(BoolOrNot, "dst := a or not b") \
    X(BoolXor, "dst := a xor b") \
    X(BoolNot, "dst := not a") \
    X(Contacts2, "dst := the bit of n that the bytes a and b pick: a truth table") \
    X(Contacts3, "the same of 3 bytes, one in the next slot") \
    X(Contacts4, "the same of 4 bytes, two in the next slot") \
    X(Contacts5, "the same of 5 bytes, three in the next slot, with the table as its last word") \
    X(Contacts6, "the same of 6 bytes, four in the next slot, with table n of the program") \
    X(Contacts7, "the same of 7 bytes in two slots, the table of 16 bytes is at a") \
    X(Contacts8, "the same of 8 bytes in two slots, the table of 32 bytes is at a") \
    X(BitContacts, "as Contacts8, of n contacts each with its bit number") \
    X(TimerOn, "on-delay timer TON at a") \
    X(TimerOff, "off-delay timer TOF at a") \
    X(TimerPulse, "pulse timer TP at a") \
    X(TimerOnWith, "TON at a with IN from dst and PT from b") \
    X(TimerOffWith, "TOF at a with IN from dst and PT from b") \
    X(TimerPulseWith, "TP at a with IN from dst and PT from b") \
    X(RisingTrigger, "R_TRIG at a") \
    X(FallingTrigger, "F_TRIG at a") \
    X(RisingTriggerWith, "R_TRIG at a with CLK from b") \
    X(FallingTriggerWith, "F_TRIG at a with CLK from b") \
    X(SetDominant, "bistable SR at a") \
    X(ResetDominant, "bistable RS at a") \
    X(ChartStep, "step of a chart at a") \
    X(ActionControl, "action control of a chart at a") \
    X(Rises, "dst := byte a is 1 and was 0 when last looked at; byte b remembers") \
    X(Falls, "dst := byte a is 0 and was 1 when last looked at; byte b remembers") \
    X(TextMove, "text at address dst := text at address a, cut to its capacity; n bytes a character") \
    X(TextCompare, "dst := -1, 0 or 1 as the text at address a is before, the same as or behind the one at b") \
    X(TextLength, "2-byte dst := length of the text at address a") \
    X(TextLeft, "text at address dst := the first b characters of a") \
    X(TextRight, "text at address dst := the last b characters of a") \
    X(TextMiddle, "text at address dst := b characters of a from the place in the next slot on") \
    X(TextConcat, "text at address dst := a and b together") \
    X(TextInsert, "text at address dst := a with b put in behind the place in the next slot") \
    X(TextDelete, "text at address dst := a without b characters from the place in the next slot on") \
    X(TextReplace, "text at address dst := a with b in place of as many characters from where the next slot says") \
    X(TextFind, "2-byte dst := the place of text b in text a, 0 for none") \
    X(ToText, "text at address dst := the value a of type n in letters") \
    X(FromText, "dst of type n := the value that the text at address a spells, 0 for none") \
    X(Widen, "text at address dst := text at address a in UTF-16") \
    X(Narrow, "text at address dst := text at address a in UTF-8") \
    X(TextOfCharacter, "text at address dst := the character a of n bytes") \
    X(CharacterOfText, "dst of n bytes := the first character of the text at address a, 0 for none") \
    X(MakeDate, "dst := date of year a, month b and the day in the next slot") \
    X(MakeTime, "dst := time of hour a, minute b, second and millisecond in the next slot") \
    X(SplitDate, "year dst, month a and the day in the next slot := date b") \
    X(SplitTime, "hour dst, minute a, second and millisecond in the next slot := time b") \
    X(DayOfWeek, "byte dst := day of the week of date a, 0 for Sunday") \
    X(FromBcd, "8-byte dst := the decimal digits a, n of them") \
    X(ToBcd, "8-byte dst := the number a as n decimal digits") \
    X(ValidBcd, "byte dst := all n digits of the 8-byte a are decimal")
// clang-format on

/// Operations that exist for each integer type.
#define VYARD_INTEGER_OPERATIONS(X)                                                                               \
    X(Modulo, "dst := a mod b, sign of a; run-time fault when b is 0")                                            \
    X(And, "dst := a and b, bitwise")                                                                             \
    X(Or, "dst := a or b, bitwise")                                                                               \
    X(Xor, "dst := a xor b, bitwise")                                                                             \
    X(Invert, "dst := not a, bitwise")                                                                            \
    X(ShiftLeft, "dst := a shifted left by the 8-byte integer b")                                                 \
    X(ShiftRight, "dst := a shifted right, zeros come in")                                                        \
    X(RotateLeft, "dst := a rotated left")                                                                        \
    X(RotateRight, "dst := a rotated right")                                                                      \
    X(SwapBytes, "dst := a with its bytes in the other order")                                                    \
    X(CheckRange, "dst := a; run-time fault when it is not within the two values at b")                           \
    X(Index,                                                                                                      \
      "the address at dst moves on to element a of the range and stride at b; run-time fault when there is none") \
    X(CountUp, "up counter at a")                                                                                 \
    X(CountDown, "down counter at a")                                                                             \
    X(CountUpWith, "up counter at a with CU from dst, R from b and PV from the next slot")                        \
    X(CountDownWith, "down counter at a with CD from dst, LD from b and PV from the next slot")                   \
    X(Select, "go on at one of the n instructions in the next slots, by a less the integer b; at dst when none")  \
    X(CountUpDown, "up-down counter at a")

/// Operations that exist for each number type. Integers wrap.
#define VYARD_NUMBER_OPERATIONS(X)                                             \
    X(Add, "dst := a + b")                                                     \
    X(Subtract, "dst := a - b")                                                \
    X(Multiply, "dst := a * b")                                                \
    X(Divide, "dst := a / b; integers: run-time fault when b is 0")            \
    X(Negate, "dst := -a")                                                     \
    X(Absolute, "dst := |a|")                                                  \
    X(Minimum, "dst := the smaller of a and b")                                \
    X(Maximum, "dst := the larger of a and b")                                 \
    X(Equal, "byte dst := a = b")                                              \
    X(NotEqual, "byte dst := a <> b")                                          \
    X(Less, "byte dst := a < b")                                               \
    X(LessEqual, "byte dst := a <= b")                                         \
    X(ToI8, "dst := a as I8: integers wrap, reals round to even and saturate") \
    X(ToI16, "dst := a as I16")                                                \
    X(ToI32, "dst := a as I32")                                                \
    X(ToI64, "dst := a as I64")                                                \
    X(ToU8, "dst := a as U8")                                                  \
    X(ToU16, "dst := a as U16")                                                \
    X(ToU32, "dst := a as U32")                                                \
    X(ToU64, "dst := a as U64")                                                \
    X(ToF32, "dst := a as F32")                                                \
    X(ToF64, "dst := a as F64")                                                \
    X(ToBool, "byte dst := a <> 0")

/// Operations that exist for each real type.
#define VYARD_REAL_OPERATIONS(X)                                        \
    X(SquareRoot, "dst := square root of a")                            \
    X(Truncate, "dst := a without its fraction")                        \
    X(NaturalLogarithm, "dst := ln a")                                  \
    X(Exponential, "dst := e to the a")                                 \
    X(Sine, "dst := sin a, radians")                                    \
    X(Cosine, "dst := cos a, radians")                                  \
    X(ArcTangent, "dst := atan a, radians")                             \
    X(DecimalLogarithm, "dst := log10 a")                               \
    X(Tangent, "dst := tan a, radians")                                 \
    X(ArcSine, "dst := asin a, radians")                                \
    X(ArcCosine, "dst := acos a, radians")                              \
    X(ArcTangent2, "dst := atan2 of y a, x b")                          \
    X(IsValid, "byte dst := a is a number")                             \
    X(MultiplyAdd, "dst := a * b + the value that the next slot names") \
    X(Power, "dst := a to the b")

/// Families for each type stand in the order of Representation, so that op + representation is the operation.
enum class Op : std::uint16_t {
#define VYARD_OP(name, effect) name,
    VYARD_PLAIN_OPERATIONS(VYARD_OP)
#undef VYARD_OP
#define VYARD_OP(name, effect) name##I8, name##I16, name##I32, name##I64, name##U8, name##U16, name##U32, name##U64,
        VYARD_INTEGER_OPERATIONS(VYARD_OP)
#undef VYARD_OP
#define VYARD_OP(name, effect) \
    name##I8, name##I16, name##I32, name##I64, name##U8, name##U16, name##U32, name##U64, name##F32, name##F64,
            VYARD_NUMBER_OPERATIONS(VYARD_OP)
#undef VYARD_OP
#define VYARD_OP(name, effect) name##F32, name##F64,
                VYARD_REAL_OPERATIONS(VYARD_OP)
#undef VYARD_OP
                    Count
};

/// 16 bytes. `head` holds the operation and a small number n; in the slots behind Contacts, Select and a few others
/// all four words are operands.
struct Instruction {
    std::uint32_t head = 0;
    std::uint32_t dst = 0;
    std::uint32_t a = 0;
    std::uint32_t b = 0;

    bool operator==(const Instruction&) const = default;

    Instruction() = default;
    Instruction(Op op, std::uint32_t dst_, std::uint32_t a_, std::uint32_t b_, std::uint32_t n_ = 0)
        : head(static_cast<std::uint32_t>(op) | n_ << 16), dst(dst_), a(a_), b(b_) {}
    static Instruction operands(std::uint32_t first, std::uint32_t second, std::uint32_t third, std::uint32_t fourth) {
        Instruction out;
        out.head = first;
        out.dst = second;
        out.a = third;
        out.b = fourth;
        return out;
    }
    Op op() const { return static_cast<Op>(head & 0xFFFFU); }
    std::uint32_t n() const { return head >> 16; }
};

/// How many slots of operands stand behind an instruction.
std::uint32_t operand_slots(const Instruction& in);

/// Operands of block code with this bit count from the start of the instance; all others from that of the memory.
constexpr std::uint32_t kSelf = 1U << 31;
/// In BitContacts: the bit number of a contact, from this position on.
constexpr int kContactBit = 27;

const char* operation_name(Op op);
const char* operation_effect(Op op);

}  // namespace vyard::logic
