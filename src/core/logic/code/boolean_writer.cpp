// Boolean expressions as truth tables: a rung of up to eight contacts is one operation that picks a bit, instead of
// one operation a contact. What an interpreter pays for is the choice of the next operation, not the work in it; with
// one table a rung the generated program of bench/ runs about twice as fast as with two-input operations.
#include <algorithm>
#include <array>

#include "core/logic/code/expression_writer.hpp"

namespace vyard::logic {

using E = Elementary;

namespace {

constexpr std::size_t kMostContacts = 8;
using Table = std::array<std::uint64_t, 4>;  ///< Bit i: the value when contact k is bit k of i.

/// The table of contact `k` alone.
Table contact_table(std::size_t k) {
    static constexpr std::uint64_t kPatterns[] = {0xAAAAAAAAAAAAAAAAULL, 0xCCCCCCCCCCCCCCCCULL, 0xF0F0F0F0F0F0F0F0ULL,
                                                  0xFF00FF00FF00FF00ULL, 0xFFFF0000FFFF0000ULL, 0xFFFFFFFF00000000ULL};
    constexpr std::uint64_t kAll = ~std::uint64_t{0};
    if (k < 6) return {kPatterns[k], kPatterns[k], kPatterns[k], kPatterns[k]};
    return k == 6 ? Table{0, kAll, 0, kAll} : Table{0, 0, kAll, kAll};
}

Table inverted(Table t) {
    for (std::uint64_t& word : t) word = ~word;
    return t;
}

bool is_logic(const Expression& e) {
    if (!e.type.is(E::Bool)) return false;
    return (e.kind == ExpressionKind::Binary && e.op <= Operator::And && e.operands[0]->type.is(E::Bool)) ||
           (e.kind == ExpressionKind::Unary && e.op == Operator::Not);
}

}  // namespace

/// A Boolean function of some contacts.
struct ExpressionWriter::Rung {
    struct Contact {
        std::uint32_t at = 0;
        int bit = -1;
    };
    std::vector<Contact> contacts;
    Table table{};
};

void ExpressionWriter::add_contact(Rung& out, std::uint32_t operand, int bit, bool negated) {
    out.contacts = {{operand, bit}};
    out.table = negated ? inverted(contact_table(0)) : contact_table(0);
}

namespace {

/// The table of a function when its contact k has become contact to[k].
template <class Contacts>
Table renumbered(const Table& table, const Contacts& contacts, const std::vector<std::size_t>& to) {
    bool same = true;
    for (std::size_t k = 0; k < contacts.size(); ++k) same = same && to[k] == k;
    if (same) return table;
    Table out{};
    for (std::size_t i = 0; i < 256; ++i) {
        std::size_t old = 0;
        for (std::size_t k = 0; k < contacts.size(); ++k) old |= ((i >> to[k]) & 1U) << k;
        if (((table[old / 64] >> (old % 64)) & 1U) != 0) out[i / 64] |= std::uint64_t{1} << (i % 64);
    }
    return out;
}

}  // namespace

void ExpressionWriter::materialize(Rung& r, Span span) {
    const std::uint32_t slot = writer_.temporary();
    write_rung(r, slot, span);
    add_contact(r, slot, -1, false);
}

void ExpressionWriter::combine(Rung& left, Rung& right, Operator op, Span span) {
    const auto joined = [&](std::vector<std::size_t>& to) {
        std::vector<Rung::Contact> all = left.contacts;
        to.clear();
        for (const Rung::Contact& c : right.contacts) {
            std::size_t k = 0;
            while (k < all.size() && (all[k].at != c.at || all[k].bit != c.bit)) ++k;
            if (k == all.size()) all.push_back(c);
            to.push_back(k);
        }
        return all;
    };
    std::vector<std::size_t> to;
    std::vector<Rung::Contact> all = joined(to);
    if (all.size() > kMostContacts) {
        materialize(left.contacts.size() >= right.contacts.size() ? left : right, span);
        all = joined(to);
        if (all.size() > kMostContacts) {
            materialize(left.contacts.size() > 1 ? left : right, span);
            all = joined(to);
        }
    }
    const Table other = renumbered(right.table, right.contacts, to);
    for (std::size_t w = 0; w < 4; ++w) {
        left.table[w] = op == Operator::And  ? left.table[w] & other[w]
                        : op == Operator::Or ? left.table[w] | other[w]
                                             : left.table[w] ^ other[w];
    }
    left.contacts = std::move(all);
}

void ExpressionWriter::reduce(const Expression& e, Rung& out, bool negated) {
    if (e.kind == ExpressionKind::Unary && is_logic(e)) return reduce(*e.operands[0], out, !negated);
    if (is_logic(e)) {
        reduce(*e.operands[0], out, false);
        Rung right;
        reduce(*e.operands[1], right, false);
        combine(out, right, e.op, e.span);
        if (negated) out.table = inverted(out.table);
        return;
    }
    if (e.kind == ExpressionKind::Literal) {
        out.contacts.clear();
        out.table = (e.integer != 0) != negated ? inverted(Table{}) : Table{};
        return;
    }
    const bool variable =
        e.kind == ExpressionKind::Name || e.kind == ExpressionKind::Direct || e.kind == ExpressionKind::Member;
    if (variable) {
        const Place p = place(e);
        if (!p.indirect) return add_contact(out, p.at, p.bit, negated);
    }
    add_contact(out, value(e), -1, negated);
}

void ExpressionWriter::write_rung(const Rung& r, std::uint32_t dst, Span span) {
    const std::size_t n = r.contacts.size();
    const auto low = static_cast<std::uint32_t>(r.table[0]);
    bool bits = false;
    for (const Rung::Contact& c : r.contacts) bits = bits || c.bit >= 0;
    if (n == 0) return move(E::Bool, dst, writer_.constant_integer(E::Bool, low & 1U), span);
    const auto plain = [&](std::size_t k) { return r.contacts[k].at; };
    if (n == 1 && !bits) {
        switch (low & 3U) {
            case 0: return move(E::Bool, dst, writer_.constant_integer(E::Bool, 0), span);
            case 1: writer_.emit(Op::BoolNot, dst, plain(0), 0, span); return;
            case 2: return move(E::Bool, dst, plain(0), span);
            default: return move(E::Bool, dst, writer_.constant_integer(E::Bool, 1), span);
        }
    }
    if (n == 2 && !bits) {
        switch (low & 15U) {
            case 0x8: writer_.emit(Op::BoolAnd, dst, plain(0), plain(1), span); return;
            case 0x2: writer_.emit(Op::BoolAndNot, dst, plain(0), plain(1), span); return;
            case 0x4: writer_.emit(Op::BoolAndNot, dst, plain(1), plain(0), span); return;
            case 0xE: writer_.emit(Op::BoolOr, dst, plain(0), plain(1), span); return;
            case 0xB: writer_.emit(Op::BoolOrNot, dst, plain(0), plain(1), span); return;
            case 0xD: writer_.emit(Op::BoolOrNot, dst, plain(1), plain(0), span); return;
            case 0x6: writer_.emit(Op::BoolXor, dst, plain(0), plain(1), span); return;
            default: break;
        }
    }
    if (n == 1 && (low & 3U) == 2U) {
        writer_.emit(Op::LoadBit, dst, plain(0), static_cast<std::uint32_t>(r.contacts[0].bit), span);
        return;
    }
    std::array<std::uint32_t, kMostContacts> words{};
    for (std::size_t k = 0; k < n; ++k) {
        words[k] = plain(k);
        if (bits) words[k] |= static_cast<std::uint32_t>(std::max(r.contacts[k].bit, 0)) << kContactBit;
    }
    const auto table = !bits && n == 6 ? writer_.table(r.table[0]) : std::nullopt;
    if (!bits && (n < 6 || table)) {
        const auto op = static_cast<Op>(static_cast<int>(Op::Contacts2) + static_cast<int>(n) - 2);
        const std::uint32_t number = n == 6 ? *table : n == 5 ? 0 : low & ((1U << (1U << n)) - 1);
        writer_.emit(op, dst, words[0], words[1], span, number);
        if (n > 2) writer_.operands(words[2], words[3], words[4], n == 5 ? low : words[5]);
        return;
    }
    const std::size_t known = bits ? n : std::max<std::size_t>(n, 7);  // of seven contacts the last may be one twice
    Bytes bytes(std::max<std::size_t>((std::size_t{1} << known) / 8, 1));
    for (std::size_t i = 0; i < bytes.size(); ++i) bytes[i] = static_cast<std::byte>(r.table[i / 8] >> (i % 8 * 8));
    if (known > n) words[n] = words[0];
    const Op op = bits ? Op::BitContacts : known == 7 ? Op::Contacts7 : Op::Contacts8;
    writer_.emit(op, dst, writer_.blob(bytes), 0, span, bits ? static_cast<std::uint32_t>(n) : 0);
    writer_.operands(words[0], words[1], words[2], words[3]);
    if (known > 4) writer_.operands(words[4], words[5], words[6], words[7]);
}

bool ExpressionWriter::rung(const Expression& e, std::uint32_t dst) {
    Rung r;
    reduce(e, r, false);
    write_rung(r, dst, e.span);
    return true;
}

/// IF c THEN x := TRUE; END_IF is x := x OR c; with FALSE it is x := x AND NOT c.
bool ExpressionWriter::latch(const Expression& condition, const StatementList& body) {
    if (body.empty() || body.size() > 4) return false;
    for (const Statement& s : body) {
        const bool plain = s.kind == StatementKind::Assign && s.value->kind == ExpressionKind::Literal &&
                           s.value->type.is(E::Bool) && s.target->type.is(E::Bool) &&
                           (s.target->kind == ExpressionKind::Name || s.target->kind == ExpressionKind::Member);
        if (!plain) return false;
        const Place p = place(*s.target);
        if (p.indirect || p.bit >= 0) return false;
    }
    Rung first;
    reduce(condition, first, false);
    // A target that is itself a contact would change what the others see.
    if (body.size() > 1) materialize(first, condition.span);
    for (const Statement& s : body) {
        Rung r = first;
        Rung own;
        const std::uint32_t at = place(*s.target).at;
        add_contact(own, at, -1, false);
        const bool set = s.value->integer != 0;
        if (!set) r.table = inverted(r.table);
        combine(r, own, set ? Operator::Or : Operator::And, s.span);
        write_rung(r, at, s.span);
    }
    return true;
}

}  // namespace vyard::logic
