#include "files/trace_chunks.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <fstream>

namespace vyard::files {

namespace {

constexpr std::string_view kMagic = "VYTRACE\n";
constexpr std::uint32_t kVersion = 1;
constexpr std::uint32_t kMostBytes = 1U << 30;  ///< Of a block; more is no file of ours.

template <class T>
void put(std::string& out, T value) {
    for (std::size_t i = 0; i < sizeof value; ++i)
        out += static_cast<char>((static_cast<std::uint64_t>(value) >> (8 * i)) & 0xFFU);
}
void put_text(std::string& out, std::string_view text) {
    put(out, static_cast<std::uint32_t>(text.size()));
    out += text;
}
void put_value(std::string& out, const logic::Value& value) {
    if (logic::is_text(value.type)) return put_text(out, value.text);
    put(out, value.bits);
}

/// A block of bytes, read with an eye on its end.
class Block {
  public:
    explicit Block(std::string bytes) : bytes_(std::move(bytes)) {}

    template <class T>
    T get() {
        std::uint64_t out = 0;
        if (!has(sizeof(T))) return T{};
        for (std::size_t i = 0; i < sizeof(T); ++i)
            out |= static_cast<std::uint64_t>(static_cast<unsigned char>(bytes_[at_ + i])) << (8 * i);
        at_ += sizeof(T);
        return static_cast<T>(out);
    }
    std::string text() {
        const auto length = get<std::uint32_t>();
        if (!has(length)) return {};
        at_ += length;
        return bytes_.substr(at_ - length, length);
    }
    logic::Value value(logic::Elementary type) {
        if (logic::is_text(type)) return {type, 0, text()};
        return {type, get<std::uint64_t>(), {}};
    }
    bool good() const { return good_; }
    bool done() const { return at_ == bytes_.size(); }

  private:
    bool has(std::size_t count) {
        good_ = good_ && count <= bytes_.size() - at_;
        return good_;
    }
    std::string bytes_;
    std::size_t at_ = 0;
    bool good_ = true;
};

}  // namespace

void ChunkSink::begin(const std::vector<trace::Channel>& channels, base::Nanoseconds time) {
    begin_ns_ = at_ns_ = time.count();
    changes_.assign(channels.size(), {});
    std::string header;
    put(header, static_cast<std::uint32_t>(channels.size()));
    for (const trace::Channel& c : channels) {
        put_text(header, c.name);
        put_text(header, logic::type_name(c.signal.type));
        put(header, static_cast<std::uint8_t>(c.signal.of_plant() ? 1 : 0));
        put(header, static_cast<std::uint8_t>(c.signal.reading.dimension));
        put(header, static_cast<std::uint32_t>(c.names == nullptr ? 0 : c.names->size()));
        if (c.names == nullptr) continue;
        for (const auto& [number, name] : *c.names) {
            put(header, number);
            put_text(header, name);
        }
    }
    for (const trace::Channel& c : channels) last_.push_back({c.signal.type, 0, {}});
    std::string out(kMagic);
    put(out, kVersion);
    put(out, static_cast<std::uint32_t>(header.size()));
    out_(out + header);
}

void ChunkSink::change(base::Nanoseconds time, std::uint32_t channel, const logic::Value& value) {
    // A chunk ends between two instants, so that none is torn.
    if (count_ >= most_ && time.count() != at_ns_) write_chunk();
    at_ns_ = time.count();
    changes_[channel].emplace_back(at_ns_, value);
    ++count_;
    ++total_;
}

void ChunkSink::write_chunk() {
    std::string body;
    put(body, begin_ns_);
    put(body, at_ns_);
    for (const logic::Value& v : last_) put_value(body, v);
    std::uint32_t changed = 0;
    for (const auto& list : changes_) changed += list.empty() ? 0U : 1U;
    put(body, changed);
    for (std::uint32_t c = 0; c < changes_.size(); ++c) {
        auto& list = changes_[c];
        if (list.empty()) continue;
        put(body, c);
        put(body, static_cast<std::uint32_t>(list.size()));
        for (const auto& [time, value] : list) {
            put(body, time);
            put_value(body, value);
        }
        last_[c] = list.back().second;
        list.clear();
    }
    std::string out = "C";
    put(out, static_cast<std::uint32_t>(body.size()));
    out_(out.append(body));
    begin_ns_ = at_ns_;
    count_ = 0;
}

void ChunkSink::end(base::Nanoseconds time) {
    if (count_ > 0) write_chunk();
    std::string out = "E";
    put(out, std::uint32_t{16});
    put(out, time.count());
    put(out, total_);
    out_(out);
}

namespace {

std::optional<std::vector<trace::Channel>> channels_of(Block& header) {
    std::vector<trace::Channel> out;
    const auto count = header.get<std::uint32_t>();
    for (std::uint32_t i = 0; i < count && header.good(); ++i) {
        trace::Channel c;
        c.name = header.text();
        const auto type = logic::find_type(header.text());
        const bool plant = header.get<std::uint8_t>() != 0;
        const auto dimension = header.get<std::uint8_t>();
        auto names = std::make_shared<logic::ValueNames>();
        const auto known = header.get<std::uint32_t>();
        for (std::uint32_t n = 0; n < known && header.good(); ++n) {
            const auto number = header.get<std::int64_t>();
            names->emplace_back(number, header.text());
        }
        if (!type || dimension > static_cast<std::uint8_t>(base::Dimension::Force)) return std::nullopt;
        if (!names->empty()) c.names = std::move(names);
        c.signal.type = *type;
        c.signal.controller = plant ? -1 : 0;
        c.signal.reading.dimension = static_cast<base::Dimension>(dimension);
        out.push_back(std::move(c));
    }
    if (!header.good() || !header.done()) return std::nullopt;
    return out;
}

class Reader {
  public:
    Reader(std::istream& in, std::int64_t from, std::int64_t to) : in_(in), from_(from), to_(to) {}

    ChunksRead run() {
        std::string magic(kMagic.size(), '\0');
        if (!bytes(magic.data(), magic.size()) || magic != kMagic) return {std::nullopt, "it is not a trace in chunks"};
        const std::uint32_t version = number();
        if (version != kVersion)
            return {std::nullopt, fmt::format("it has version {}, this program reads version {}", version, kVersion)};
        auto header = block();
        if (!header) return torn("its head");
        const auto channels = channels_of(*header);
        if (!channels) return torn("its head");
        trace_.begin(*channels, base::Nanoseconds(from_));
        for (;;) {
            char kind = 0;
            if (!bytes(&kind, 1)) return torn("a chunk: its end is missing");
            auto body = block();
            if (!body) return torn("a chunk");
            if (kind == 'E') {
                const auto end = body->get<std::int64_t>();
                if (!body->good()) return torn("its end");
                finish(std::min(end, to_));
                return {std::move(trace_), {}};
            }
            if (kind != 'C') return {std::nullopt, fmt::format("byte {} starts no chunk", at_)};
            if (!chunk(*body)) return torn("a chunk");
        }
    }

  private:
    ChunksRead torn(const char* what) const {
        return {std::nullopt, fmt::format("it ends within {}, at byte {}", what, at_)};
    }

    bool bytes(char* to, std::size_t count) {
        in_.read(to, static_cast<std::streamsize>(count));
        at_ += static_cast<std::uint64_t>(in_.gcount());
        return static_cast<std::size_t>(in_.gcount()) == count;
    }
    std::uint32_t number() {
        std::string raw(4, '\0');
        return bytes(raw.data(), 4) ? Block(raw).get<std::uint32_t>() : 0;
    }
    std::optional<Block> block() {
        std::string raw(4, '\0');
        if (!bytes(raw.data(), 4)) return std::nullopt;
        const auto size = Block(raw).get<std::uint32_t>();
        if (size > kMostBytes) return std::nullopt;
        std::string body;
        // In parts, so that a wrong size does not take memory that the file cannot fill.
        while (body.size() < size) {
            const std::size_t part = std::min<std::size_t>(size - body.size(), 1U << 20);
            const std::size_t before = body.size();
            body.resize(before + part);
            if (!bytes(body.data() + before, part)) return std::nullopt;
        }
        return Block(std::move(body));
    }

    bool chunk(Block& body) {
        const auto& channels = trace_.channels();
        const auto begin = body.get<std::int64_t>(), end = body.get<std::int64_t>();
        std::vector<logic::Value> at_begin;
        at_begin.reserve(channels.size());
        for (const trace::Channel& c : channels) at_begin.push_back(body.value(c.signal.type));
        if (!body.good()) return false;
        if (now_.empty()) now_ = at_begin;
        if (end < from_) {  // what it was at its end is what the next one begins with
            now_.clear();
            return true;
        }
        if (begin > to_) return true;
        if (begin < from_) now_ = at_begin;
        const auto changed = body.get<std::uint32_t>();
        for (std::uint32_t i = 0; i < changed && body.good(); ++i) {
            const auto channel = body.get<std::uint32_t>();
            const auto count = body.get<std::uint32_t>();
            if (channel >= channels.size()) return false;
            for (std::uint32_t k = 0; k < count && body.good(); ++k) {
                const auto time = body.get<std::int64_t>();
                logic::Value value = body.value(channels[channel].signal.type);
                if (time <= from_) {
                    now_[channel] = std::move(value);
                } else if (time <= to_) {
                    later_.push_back({time, channel, std::move(value)});
                }
            }
        }
        return body.good() && body.done();
    }

    void finish(std::int64_t end) {
        for (std::uint32_t c = 0; c < now_.size(); ++c) trace_.change(base::Nanoseconds(from_), c, now_[c]);
        for (const Later& l : later_) trace_.change(base::Nanoseconds(l.time), l.channel, l.value);
        trace_.end(base::Nanoseconds(std::max(end, from_)));
    }

    struct Later {
        std::int64_t time;
        std::uint32_t channel;
        logic::Value value;
    };
    std::istream& in_;
    std::int64_t from_, to_;
    std::uint64_t at_ = 0;
    trace::Trace trace_;
    std::vector<logic::Value> now_;  ///< By channel, at `from_`.
    std::vector<Later> later_;
};

}  // namespace

ChunksRead read_chunks(const std::string& path, base::Nanoseconds from, base::Nanoseconds to) {
    std::ifstream in(path, std::ios::binary);
    if (!in) return {std::nullopt, std::strerror(errno)};
    return Reader(in, from.count(), to.count()).run();
}

}  // namespace vyard::files
