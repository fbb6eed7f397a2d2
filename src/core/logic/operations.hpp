// The one list of the machine's operations. The enum, the names in listings and docs/machine.md derive from it;
// machine.cpp has one case for each.
//
// An instruction is three-address code over the flat memory of a program: `dst`, `a` and `b` are byte offsets, except
// where the effect says otherwise. Constants lie in the same memory, so every operand is read the same way.
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
#define VYARD_PLAIN_OPERATIONS(X)                                                         \
    X(End, "end of the scan's code")                                                      \
    X(Jump, "go on at instruction a")                                                     \
    X(JumpIf, "go on at instruction a if byte b is not 0")                                \
    X(JumpUnless, "go on at instruction a if byte b is 0")                                \
    X(LoopBack, "go on at instruction a; takes one from the scan's budget of loop turns") \
    X(Call, "go on at instruction a, Return comes back")                                  \
    X(Return, "go on behind the last Call")                                               \
    X(Move8, "dst := a, 1 byte")                                                          \
    X(Move16, "dst := a, 2 bytes")                                                        \
    X(Move32, "dst := a, 4 bytes")                                                        \
    X(Move64, "dst := a, 8 bytes")                                                        \
    X(LoadBit, "byte dst := bit b of byte a")                                             \
    X(StoreBit, "bit b of byte dst := byte a")                                            \
    X(BoolAnd, "dst := a and b, bytes of 0 or 1")                                         \
    X(BoolAndNot, "dst := a and not b")                                                   \
    X(BoolOr, "dst := a or b")                                                            \
    X(BoolOrNot, "dst := a or not b")                                                     \
    X(BoolXor, "dst := a xor b")                                                          \
    X(BoolNot, "dst := not a")                                                            \
    X(TimerOn, "on-delay timer TON at a")                                                 \
    X(TimerOff, "off-delay timer TOF at a")                                               \
    X(TimerPulse, "pulse timer TP at a")                                                  \
    X(CountUp, "up counter CTU at a")                                                     \
    X(CountDown, "down counter CTD at a")                                                 \
    X(CountUpDown, "up-down counter CTUD at a")                                           \
    X(RisingTrigger, "R_TRIG at a")                                                       \
    X(FallingTrigger, "F_TRIG at a")                                                      \
    X(SetDominant, "bistable SR at a")                                                    \
    X(ResetDominant, "bistable RS at a")                                                  \
    X(Rises, "dst := byte a is 1 and was 0 when last looked at; byte b remembers")        \
    X(Falls, "dst := byte a is 0 and was 1 when last looked at; byte b remembers")

/// Operations that exist for each integer type.
#define VYARD_INTEGER_OPERATIONS(X)                                    \
    X(Modulo, "dst := a mod b, sign of a; run-time fault when b is 0") \
    X(And, "dst := a and b, bitwise")                                  \
    X(Or, "dst := a or b, bitwise")                                    \
    X(Xor, "dst := a xor b, bitwise")                                  \
    X(Invert, "dst := not a, bitwise")                                 \
    X(ShiftLeft, "dst := a shifted left by the 8-byte integer b")      \
    X(ShiftRight, "dst := a shifted right, zeros come in")             \
    X(RotateLeft, "dst := a rotated left")                             \
    X(RotateRight, "dst := a rotated right")

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
#define VYARD_REAL_OPERATIONS(X)                 \
    X(SquareRoot, "dst := square root of a")     \
    X(Truncate, "dst := a without its fraction") \
    X(NaturalLogarithm, "dst := ln a")           \
    X(Exponential, "dst := e to the a")          \
    X(Sine, "dst := sin a, radians")             \
    X(Cosine, "dst := cos a, radians")           \
    X(ArcTangent, "dst := atan a, radians")      \
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

struct Instruction {
    Op op = Op::End;
    std::uint32_t dst = 0;
    std::uint32_t a = 0;
    std::uint32_t b = 0;
};

const char* operation_name(Op op);
const char* operation_effect(Op op);

}  // namespace vyard::logic
