#include "core/logic/code/code_writer.hpp"

#include <algorithm>
#include <cstring>

#include "core/logic/check/constants.hpp"
#include "core/logic/text_values.hpp"

namespace vyard::logic {

using E = Elementary;

Op pick(Op family, E type) {
    return static_cast<Op>(static_cast<int>(family) + static_cast<int>(representation(type)));
}
Op pick_real(Op family, E type) {
    return static_cast<Op>(static_cast<int>(family) + (type == E::Lreal ? 1 : 0));
}
Op pick_size(Op first, int bytes) {
    return static_cast<Op>(static_cast<int>(first) + (bytes == 1 ? 0 : bytes == 2 ? 1 : bytes == 4 ? 2 : 3));
}

std::uint32_t CodeWriter::emit(Op op, std::uint32_t dst, std::uint32_t a, std::uint32_t b, Span span, std::uint32_t n) {
    code.emplace_back(op, dst, a, b, n);
    places.push_back({source, span});
    return here() - 1;
}

void CodeWriter::mark_jump(std::uint32_t instruction, std::uint32_t byte) {
    Instruction& in = code[instruction];
    VYARD_CHECK(in.op() == Op::JumpIf || in.op() == Op::JumpUnless);
    in = Instruction(in.op() == Op::JumpIf ? Op::MarkJumpIf : Op::MarkJumpUnless, byte, in.a, in.b);
}

void CodeWriter::operands(std::uint32_t first, std::uint32_t second, std::uint32_t third, std::uint32_t fourth) {
    code.push_back(Instruction::operands(first, second, third, fourth));
    places.push_back(places.back());
}

std::uint32_t CodeWriter::constant_bytes(int size, std::array<std::byte, 8> bytes) {
    const auto [found, fresh] = constants_.try_emplace({size, bytes}, next_);
    if (fresh) next_ += 8;
    return found->second;
}

std::uint32_t CodeWriter::constant(E type, const Expression& literal) {
    std::array<std::byte, 8> bytes{};
    const std::uint64_t bits =
        literal.kind == ExpressionKind::Text ? character_of(type, literal.name) : literal_bits(literal);
    std::memcpy(bytes.data(), &bits, sizeof bits);
    const int size = type_size(type);
    for (auto i = static_cast<std::size_t>(size); i < bytes.size(); ++i) bytes[i] = std::byte{0};
    return constant_bytes(size, bytes);
}

std::uint32_t CodeWriter::constant_integer(E type, std::int64_t value) {
    Expression literal;
    literal.type.elementary = type;
    literal.negative = value < 0;
    literal.integer = value < 0 ? 0 - static_cast<std::uint64_t>(value) : static_cast<std::uint64_t>(value);
    literal.real = static_cast<double>(value);
    return constant(type, literal);
}

std::uint32_t CodeWriter::blob(const Bytes& bytes) {
    const std::string key(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    const auto [found, fresh] = blobs_.try_emplace(key, next_);
    if (fresh) keep(static_cast<std::uint32_t>(bytes.size()));
    return found->second;
}

std::optional<std::uint32_t> CodeWriter::table(std::uint64_t bits) {
    constexpr std::size_t kMostTables = 65536;  // the number n of an instruction holds 16 bits
    const auto found = table_numbers_.find(bits);
    if (found != table_numbers_.end()) return found->second;
    if (tables.size() == kMostTables) return std::nullopt;
    tables.push_back(bits);
    return table_numbers_[bits] = static_cast<std::uint32_t>(tables.size() - 1);
}

std::uint32_t CodeWriter::temporary() {
    if (used_slots_ == slots_.size()) slots_.push_back(keep(8));
    return slots_[used_slots_++];
}

bool CodeWriter::is_temporary(std::uint32_t at) const {
    return std::find(slots_.begin(), slots_.begin() + static_cast<std::ptrdiff_t>(used_slots_), at) !=
           slots_.begin() + static_cast<std::ptrdiff_t>(used_slots_);
}

void CodeWriter::begin_unit() {
    slots_.clear();
    used_slots_ = 0;
}

std::uint32_t CodeWriter::keep(std::uint32_t bytes) {
    const std::uint32_t at = next_;
    next_ += (bytes + 7) / 8 * 8;
    return at;
}

std::uint32_t CodeWriter::keep_text(E type, int capacity) {
    const std::uint32_t at = keep(text_size(type, capacity));
    texts_.emplace_back(at, capacity);
    return at;
}

void CodeWriter::fill(std::vector<std::byte>& memory) const {
    memory.resize(next_);
    for (const auto& [key, offset] : constants_) std::memcpy(memory.data() + offset, key.second.data(), 8);
    for (const auto& [bytes, offset] : blobs_) std::memcpy(memory.data() + offset, bytes.data(), bytes.size());
    for (const auto& [offset, capacity] : texts_) write_text_head(memory.data() + offset, capacity, 0);
}

}  // namespace vyard::logic
