// Every kind of mistake a yard can hold, in one list: code, short name (as printed in brackets), what it means.
// docs/diagnostics.md is checked against this list by a test, and so is that each has a case that raises it.
#pragma once

#define VYARD_DIAGNOSTIC_CODES(X)                                                                                    \
    X(FileMissing, "file-missing", "a file or folder that is named is not there, or is not meant to be read")        \
    X(FileUnreadable, "file-unreadable", "a file or folder is there, and the system does not hand it out")           \
    X(NotUtf8, "not-utf8", "a file is not UTF-8")                                                                    \
    X(Syntax, "syntax", "the text does not follow the grammar of its format")                                        \
    X(UnknownKey, "unknown-key", "a key of a TOML file, or a column of a CSV file, is not known there")              \
    X(MissingKey, "missing-key", "something that must be given is not")                                              \
    X(WrongValue, "wrong-value", "a value has the wrong form or type for its key")                                   \
    X(WrongUnit, "wrong-unit", "a quantity has no unit, or one of another dimension")                                \
    X(OutOfRange, "out-of-range", "a value is outside what is possible there")                                       \
    X(UnknownKind, "unknown-kind", "no device kind has this name")                                                   \
    X(UnknownDevice, "unknown-device", "no device of the plant has this name")                                       \
    X(WrongDevice, "wrong-device", "the device named is of a kind that cannot serve here")                           \
    X(NeverOff, "never-off", "once it is TRUE, nothing makes a variable FALSE again")                                \
    X(NoWayOut, "no-way-out", "a step of a CASE or chart that nothing leaves")                                       \
    X(CopiesOver, "copies-over", "a loop copies one element of an array over all others")                            \
    X(BeyondArray, "beyond-array", "a loop goes beyond the bounds of an array")                                      \
    X(ShortOfArray, "short-of-array", "a loop leaves out the last element of an array, or the first")                \
    X(Unguarded, "unguarded", "an output moves something, and a safety input has no say in it")                      \
    X(Overflow, "overflow", "whole numbers may become larger than their type holds")                                 \
    X(DividesByZero, "divides-by-zero", "a divisor may be 0")                                                        \
    X(NeverTrue, "never-true", "a comparison that no value its sides can have makes TRUE")                           \
    X(AlwaysTrue, "always-true", "a comparison that is TRUE wherever it has a say")                                  \
    X(NoBranch, "no-branch", "a selector takes a value for which its CASE has no branch")                            \
    X(BelowScan, "below-scan", "a timer is set to less than a scan")                                                 \
    X(WireUnwatched, "wire-unwatched", "nothing in the logic notices the broken wire of an analog input")            \
    X(WrongSense, "wrong-sense", "a contact that stops is taken the wrong way round by the logic")                   \
    X(UnsafeContact, "unsafe-contact", "what stops a machine comes from a contact that a broken wire does not open") \
    X(Unsupervised, "unsupervised", "a device tells what it does, and no timer depends on that")                     \
    X(RegisterClash, "register-clash", "tags of a link share a register, or one has none that it can have")          \
    X(RegisterOdd, "register-odd", "a value on a link begins at an odd register, or lies across two")                \
    X(NotInterlocked, "not-interlocked", "two orders that exclude one another can both be TRUE")                     \
    X(OutOfReach, "out-of-reach", "a device watches what can never come, or can never do its work")                  \
    X(PlacementLoop, "placement-loop", "devices are placed after one another in a circle")                           \
    X(DuplicateName, "duplicate-name", "a name is declared twice")                                                   \
    X(UnknownName, "unknown-name", "no variable, tag, point or actual of this name can be seen here")                \
    X(UnknownType, "unknown-type", "no data type or function block has this name")                                   \
    X(TypeMismatch, "type-mismatch", "types do not meet")                                                            \
    X(WrongCall, "wrong-call", "a call has wrong or missing arguments, or calls what cannot be called")              \
    X(NotAssignable, "not-assignable", "the left side of an assignment cannot be written")                           \
    X(LiteralRange, "literal-range", "a literal does not fit its type")                                              \
    X(BadAddress, "bad-address", "a direct address is malformed or does not fit the variable's type")                \
    X(AddressOverlap, "address-overlap", "two variables are located on the same bits")                               \
    X(NotSupported, "not-supported", "the standard knows this, this version does not")                               \
    X(TooDeep, "too-deep", "nesting or size beyond what is accepted")                                                \
    X(UnknownTag, "unknown-tag", "the map names a tag that the logic does not declare")                              \
    X(UnknownPoint, "unknown-point", "the map names a point that the plant does not have")                           \
    X(MappedTwice, "mapped-twice", "a tag or a point is joined more than once")                                      \
    X(WrongDirection, "wrong-direction", "an input point is joined to an output tag, or the other way round")        \
    X(BadScaling, "bad-scaling", "a scaling cannot be read or does not suit the joined types")                       \
    X(BadTiming, "bad-timing", "step and scan times do not fit one another")                                         \
    X(UnknownVerb, "unknown-verb", "a line of a procedure starts with no known verb")                                \
    X(UnknownControl, "unknown-control", "the device has no hand control of that verb")                              \
    X(UnknownFault, "unknown-fault", "the device or point has no fault of that name")                                \
    X(UnknownItem, "unknown-item", "the plant declares no item of that name")                                        \
    X(NothingTested, "nothing-tested", "a procedure has no step, or a yard no procedure")                            \
    X(UnusedVariable, "unused-variable", "a variable is declared and never used")                                    \
    X(NeverWritten, "never-written", "a variable is read but nothing ever writes it")                                \
    X(NeverRead, "never-read", "a variable is written but nothing ever reads it")                                    \
    X(WrittenTwice, "written-twice", "an output is written, or a block called, in two places of every scan")         \
    X(RealEquality, "real-equality", "REAL values are compared with = or <>")                                        \
    X(ConditionalTimer, "conditional-timer", "a timer is called only under a condition")                             \
    X(ConstantCondition, "constant-condition", "a condition is always TRUE or always FALSE")                         \
    X(UnreachableCase, "unreachable-case", "a label of a CASE is never reached")                                     \
    X(UnreachableStep, "unreachable-step", "no transition of the chart leads to a step")                             \
    X(ComputedNarrow, "computed-narrow", "whole numbers are computed in a smaller type than the result's")           \
    X(Recursion, "recursion", "a function or method calls itself")                                                   \
    X(NoChannel, "no-channel", "an address lies in no module of the rack, or is not a channel of it")                \
    X(LikelySwapped, "likely-swapped", "two joins whose names fit crosswise, as when wires are crossed")             \
    X(UnjoinedTag, "unjoined-tag", "a located input or output is joined to no point")                                \
    X(UnjoinedPoint, "unjoined-point", "a point of the plant is joined to no tag")

namespace vyard::base {

enum class Code {
#define VYARD_CODE(id, name, meaning) id,
    VYARD_DIAGNOSTIC_CODES(VYARD_CODE)
#undef VYARD_CODE
};

const char* code_name(Code code);
const char* code_meaning(Code code);
int code_count();

}  // namespace vyard::base
