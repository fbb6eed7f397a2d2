#include "core/logic/machine/operations.hpp"

#include <array>

#include "core/base/base.hpp"

namespace vyard::logic {

namespace {

struct OperationText {
    const char* name;
    const char* effect;
};

constexpr auto kOperations = std::to_array<OperationText>({
#define VYARD_OP(name, effect) {#name, effect},
    VYARD_PLAIN_OPERATIONS(VYARD_OP)
#undef VYARD_OP
#define VYARD_OP(name, effect)                                                                                       \
    {#name "I8", effect}, {#name "I16", effect}, {#name "I32", effect}, {#name "I64", effect}, {#name "U8", effect}, \
        {#name "U16", effect}, {#name "U32", effect}, {#name "U64", effect},
        VYARD_INTEGER_OPERATIONS(VYARD_OP)
#undef VYARD_OP
#define VYARD_OP(name, effect)                                                                                       \
    {#name "I8", effect}, {#name "I16", effect}, {#name "I32", effect}, {#name "I64", effect}, {#name "U8", effect}, \
        {#name "U16", effect}, {#name "U32", effect}, {#name "U64", effect}, {#name "F32", effect},                  \
        {#name "F64", effect},
            VYARD_NUMBER_OPERATIONS(VYARD_OP)
#undef VYARD_OP
#define VYARD_OP(name, effect) {#name "F32", effect}, {#name "F64", effect},
                VYARD_REAL_OPERATIONS(VYARD_OP)
#undef VYARD_OP
});

static_assert(kOperations.size() == static_cast<std::size_t>(Op::Count));

}  // namespace

std::uint32_t operand_slots(const Instruction& in) {
    if (in.op() >= Op::CountUpWithI8 && in.op() <= Op::CountDownWithU64) return 1;
    if (in.op() >= Op::SelectI8 && in.op() <= Op::SelectU64) return (in.n() + 3) / 4;
    switch (in.op()) {
        case Op::Contacts3:
        case Op::Contacts4:
        case Op::Contacts5:
        case Op::Contacts6: return 1;
        case Op::Contacts7:
        case Op::Contacts8: return 2;
        case Op::BitContacts: return (in.n() + 3) / 4;
        case Op::TextMiddle:
        case Op::TextInsert:
        case Op::TextDelete:
        case Op::TextReplace:
        case Op::MakeDate:
        case Op::MakeTime:
        case Op::SplitDate:
        case Op::SplitTime:
        case Op::MultiplyAddF32:
        case Op::MultiplyAddF64: return 1;
        default: return 0;
    }
}

const char* operation_name(Op op) {
    return base::at(kOperations, op).name;
}
const char* operation_effect(Op op) {
    return base::at(kOperations, op).effect;
}

}  // namespace vyard::logic
