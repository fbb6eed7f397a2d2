// Throws frames at a link. The first byte says how:
//   even          to the server: requests with a right header, each answered as a plain table by the book would, and
//                 the tables left as that one; in between bytes that are no frame at all end the connection
//   odd           to the client: what a server may answer to it; it either takes what the answer says or fails
#include <cstdio>
#include <cstdlib>
#include <map>
#include <set>

#include "link/client.hpp"
#include "link/requests.hpp"

// Behind ours: it has macros for names of members.
#include <arpa/inet.h>
#include <modbus/modbus.h>
#include <netinet/in.h>
#include <sys/socket.h>
#include <unistd.h>

namespace {

using namespace vyard;
using controller::RegisterArea;
using Bytes = std::vector<std::uint8_t>;

void must(bool holds, const char* what) {
    if (holds) return;
    std::fprintf(stderr, "%s\n", what);
    std::abort();
}

std::vector<link::Cell> cells() {
    using logic::Elementary;
    return {{{RegisterArea::Coil, 0}, Elementary::Bool, true},
            {{RegisterArea::Coil, 1}, Elementary::Bool, true},
            {{RegisterArea::Coil, 4}, Elementary::Bool, false},
            {{RegisterArea::Discrete, 0}, Elementary::Bool, false},
            {{RegisterArea::Discrete, 9}, Elementary::Bool, false},
            {{RegisterArea::Input, 0}, Elementary::Int, false},
            {{RegisterArea::Input, 2, 2}, Elementary::Real, false},
            {{RegisterArea::Holding, 0}, Elementary::Int, true},
            {{RegisterArea::Holding, 1}, Elementary::Word, true},
            {{RegisterArea::Holding, 2, 2}, Elementary::Dint, true},
            {{RegisterArea::Holding, 5, 1, 0}, Elementary::Bool, true},
            {{RegisterArea::Holding, 5, 1, 7}, Elementary::Bool, true},
            {{RegisterArea::Holding, 6, 1, 3}, Elementary::Bool, true},
            {{RegisterArea::Holding, 6, 1, 4}, Elementary::Bool, false},
            {{RegisterArea::Holding, 8, 4}, Elementary::Lreal, true},
            {{RegisterArea::Holding, 12}, Elementary::Uint, false},
            {{RegisterArea::Holding, 13, 3}, Elementary::String, true}};
}
constexpr int kHandshake = 20;

/// A server by the book: four maps from numbers to values, and which numbers go together.
struct PlainServer {
    std::map<int, std::uint16_t> coils, discretes, inputs, holdings;
    std::map<int, int> sizes;  ///< By table: 1 discrete ... as the functions count them.
    std::map<std::pair<bool, int>, std::set<int>>
        together;  ///< By register: all that are written with it; none: may not.
    std::uint64_t asked = 0;

    PlainServer() {
        sizes = {{1, 5}, {2, 10}, {3, kHandshake + 1}, {4, kHandshake + 1}};
        for (const int coil : {0, 1}) together[{true, coil}] = {coil};
        for (const int word : {0, 1, 5, kHandshake}) together[{false, word}] = {word};
        for (const int first : {2, 8, 13}) {
            std::set<int> all;
            const int count = first == 2 ? 2 : first == 8 ? 4 : 3;
            for (int i = 0; i < count; ++i) all.insert(first + i);
            for (const int n : all) together[{false, n}] = all;
        }
    }

    static Bytes refused(int function, int code) {
        return {static_cast<std::uint8_t>(function + 0x80), static_cast<std::uint8_t>(code)};
    }
    bool writable(bool bits, int first, int count) {
        for (int n = first; n < first + count; ++n) {
            const auto group = together.find({bits, n});
            if (group == together.end()) return false;
            for (const int other : group->second) {
                if (other < first || other >= first + count) return false;
            }
        }
        return true;
    }
    Bytes words_of(int function, int first, int count) {
        Bytes out = {static_cast<std::uint8_t>(function), static_cast<std::uint8_t>(2 * count)};
        for (int n = first; n < first + count; ++n) {
            const std::uint16_t w = (function == 4 ? inputs : holdings)[n];
            out.push_back(static_cast<std::uint8_t>(w >> 8U));
            out.push_back(static_cast<std::uint8_t>(w & 0xFFU));
        }
        return out;
    }

    /// The application protocol V1.1b3, chapter 6, state diagrams.
    Bytes answer(const Bytes& pdu) {
        const int f = pdu.at(0);
        const int size = static_cast<int>(pdu.size());
        const auto number = [&](int at) {
            return pdu.at(static_cast<std::size_t>(at)) * 256 + pdu.at(static_cast<std::size_t>(at + 1));
        };
        if (f != 1 && f != 2 && f != 3 && f != 4 && f != 5 && f != 6 && f != 15 && f != 16 && f != 22 && f != 23)
            return refused(f, 1);
        if (size < 5) return refused(f, 3);
        const int first = number(1), count = number(3);
        if (f <= 4) {
            const bool bits = f <= 2;
            if (size != 5 || count < 1 || count > (bits ? 2000 : 125)) return refused(f, 3);
            if (first + count > sizes[f]) return refused(f, 2);
            ++asked;
            if (!bits) return words_of(f, first, count);
            Bytes out = {static_cast<std::uint8_t>(f), static_cast<std::uint8_t>((count + 7) / 8)};
            out.resize(out.size() + static_cast<std::size_t>((count + 7) / 8));
            for (int i = 0; i < count; ++i) {
                if ((f == 1 ? coils : discretes)[first + i] != 0)
                    out[2 + static_cast<std::size_t>(i) / 8] |= static_cast<std::uint8_t>(1U << (i % 8));
            }
            return out;
        }
        if (f == 5 || f == 6) {
            if (size != 5 || (f == 5 && count != 0 && count != 0xFF00)) return refused(f, 3);
            if (!writable(f == 5, first, 1)) return refused(f, 2);
            (f == 5 ? coils : holdings)[first] = static_cast<std::uint16_t>(f == 5 ? count != 0 : count);
            ++asked;
            return pdu;
        }
        if (f == 22) {
            if (size != 7) return refused(f, 3);
            if (!writable(false, first, 1)) return refused(f, 2);
            const int with = count, or_with = number(5);
            holdings[first] = static_cast<std::uint16_t>((holdings[first] & with) | (or_with & ~with));
            ++asked;
            return pdu;
        }
        if (f == 15 || f == 16) {
            const int bytes = f == 15 ? (count + 7) / 8 : 2 * count;
            if (size < 6 || count < 1 || count > (f == 15 ? 1968 : 123) || pdu[5] != bytes || size != 6 + bytes)
                return refused(f, 3);
            if (!writable(f == 15, first, count)) return refused(f, 2);
            for (int i = 0; i < count; ++i) {
                if (f == 15) coils[first + i] = (pdu[6 + static_cast<std::size_t>(i) / 8] >> (i % 8)) & 1;
                if (f == 16) holdings[first + i] = static_cast<std::uint16_t>(number(6 + 2 * i));
            }
            ++asked;
            return {pdu.begin(), pdu.begin() + 5};
        }
        if (size < 10) return refused(f, 3);
        const int to = number(5), written = number(7);
        if (written < 1 || written > 121 || pdu[9] != 2 * written || size != 10 + 2 * written || count < 1 ||
            count > 125)
            return refused(f, 3);
        if (first + count > sizes[3] || !writable(false, to, written)) return refused(f, 2);
        for (int i = 0; i < written; ++i) holdings[to + i] = static_cast<std::uint16_t>(number(10 + 2 * i));
        ++asked;
        return words_of(23, first, count);
    }

    /// Whether tables hold the same.
    bool same(controller::RegisterImage& image) {
        const auto equal = [](auto& plain, const auto& list) {
            for (std::size_t n = 0; n < list.size(); ++n) {
                if (plain[static_cast<int>(n)] != list[n]) return false;
            }
            return true;
        };
        return equal(coils, image.bits(RegisterArea::Coil)) && equal(discretes, image.bits(RegisterArea::Discrete)) &&
               equal(inputs, image.words(RegisterArea::Input)) && equal(holdings, image.words(RegisterArea::Holding));
    }
};

struct Context {
    modbus_t* it = modbus_new_tcp("127.0.0.1", 1);
    ~Context() { modbus_free(it); }
};

/// What the other end has sent so far.
Bytes received(int socket) {
    Bytes out(1024);
    const ssize_t got = ::recv(socket, out.data(), out.size(), MSG_DONTWAIT);
    out.resize(got > 0 ? static_cast<std::size_t>(got) : 0);
    return out;
}

/// Requests, each behind its length; of length 255 what follows is sent as it is.
void to_server(const std::uint8_t* data, std::size_t size) {
    int ends[2];
    must(::socketpair(AF_UNIX, SOCK_STREAM, 0, ends) == 0, "no sockets");
    const Context context;
    modbus_set_socket(context.it, ends[0]);
    const auto tables = std::make_shared<link::Tables>(cells(), kHandshake);
    const std::vector<link::Unit> units = {{7, tables}};
    PlainServer plain;
    link::Frame frame{};
    std::uint16_t transaction = 0;
    for (std::size_t i = 0; i < size;) {
        const std::size_t length = std::min<std::size_t>(data[i] == 255 ? 255 : data[i] % 254, size - i - 1);
        const Bytes sent(data + i + 1, data + i + 1 + length);
        const bool raw = data[i] == 255;
        i += 1 + length;
        if (sent.empty()) continue;
        ++transaction;
        const std::uint8_t unit = sent.size() % 5 == 0 ? 0 : 7;
        const auto behind = static_cast<std::uint16_t>(sent.size() + 1);
        Bytes whole = {
            static_cast<std::uint8_t>(transaction >> 8U), static_cast<std::uint8_t>(transaction & 0xFFU), 0,   0,
            static_cast<std::uint8_t>(behind >> 8U),      static_cast<std::uint8_t>(behind & 0xFFU),      unit};
        if (raw) whole.clear();
        whole.insert(whole.end(), sent.begin(), sent.end());
        must(::send(ends[1], whole.data(), whole.size(), MSG_NOSIGNAL) == static_cast<ssize_t>(whole.size()),
             "not sent");
        if (raw) ::shutdown(ends[1], SHUT_WR);
        bool bad = false, goes_on = true;
        while (goes_on) {
            const auto request = link::read_frame(ends[0], frame, bad);
            if (request.empty()) break;
            int exception = 0;
            goes_on = link::answer(context.it, request, units, exception);
            if (!raw) break;
        }
        if (raw) break;  // nothing to hold it against, but that it ends
        must(!bad && goes_on, "a right frame ends the connection");
        const Bytes expected = plain.answer(sent), got = received(ends[1]);
        must(got.size() == expected.size() + 7 && std::equal(expected.begin(), expected.end(), got.begin() + 7),
             "another answer than by the book");
        must(got[0] == whole[0] && got[1] == whole[1] && got[6] == unit &&
                 got[4] * 256 + got[5] == static_cast<int>(got.size()) - 6,
             "an answer with a wrong header");
        link::Tables::Locked locked(*tables);
        must(plain.same(locked.image()), "other values than by the book");
    }
    if (transaction > 0) must(tables->take_requests() >= plain.asked, "requests are not counted");
    tables->take_written();
    ::close(ends[0]);
    ::close(ends[1]);
}

/// What a server sends to a client that reads and writes everything; the header's transaction is made right where the
/// first byte of an answer says so.
void to_client(const std::uint8_t* data, std::size_t size) {
    static const int listener = [] {
        const int out = ::socket(AF_INET, SOCK_STREAM, 0);
        sockaddr_in at{};
        at.sin_family = AF_INET;
        at.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
        must(::bind(out, reinterpret_cast<sockaddr*>(&at), sizeof at) == 0 && ::listen(out, 4) == 0, "cannot listen");
        return out;
    }();
    sockaddr_in at{};
    socklen_t length = sizeof at;
    ::getsockname(listener, reinterpret_cast<sockaddr*>(&at), &length);
    const auto all = cells();
    std::vector<int> which;
    for (std::size_t c = 0; c < all.size(); ++c) which.push_back(static_cast<int>(c));
    link::Client client("127.0.0.1", ntohs(at.sin_port), 1, all);
    if (!client.connect(std::chrono::milliseconds(200))) return;
    const int server = ::accept(listener, nullptr, nullptr);
    std::uint8_t transaction = 0;
    for (std::size_t i = 0; i + 1 < size;) {
        const bool right = data[i] % 4 != 0;
        const std::size_t count = std::min<std::size_t>(data[i + 1], size - i - 2);
        Bytes answer(data + i + 2, data + i + 2 + count);
        i += 2 + count;
        ++transaction;
        if (right) {
            const auto behind = static_cast<std::uint8_t>(answer.size() + 1);
            answer.insert(answer.begin(), {0, transaction, 0, 0, 0, behind, 1});
        }
        if (::send(server, answer.data(), answer.size(), MSG_NOSIGNAL) < 0) break;
    }
    ::shutdown(server, SHUT_WR);
    std::vector<logic::Value> values(all.size());
    const auto blocks = link::blocks_of(all, which, false);
    const bool came = client.read(blocks, values);
    must(came == client.connected(), "a client that failed is still connected");
    must(came || !client.problem().empty(), "a client fails and does not say why");
    if (came) {
        std::vector<int> may;
        for (const int c : which) {
            if (controller::may_be_written(all[static_cast<std::size_t>(c)].place.area)) may.push_back(c);
        }
        client.write(link::blocks_of(all, may, true), values);
    }
    ::close(server);
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (size < 2 || size > 4000) return 0;
    if (data[0] % 2 == 0)
        to_server(data + 1, size - 1);
    else
        to_client(data + 1, size - 1);
    return 0;
}
