#include "link/requests.hpp"

#include <modbus/modbus.h>
#include <poll.h>
#include <sys/socket.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <chrono>

namespace vyard::link {

using controller::RegisterArea;
using Clock = std::chrono::steady_clock;

namespace {

constexpr std::size_t kHeader = 7;                ///< Transaction, protocol, length, unit.
constexpr auto kFrame = std::chrono::seconds(1);  ///< So long a frame may take to come.

enum Exception { kNoFunction = 1, kNoAddress = 2, kBadValue = 3, kNoUnit = 11 };

std::uint32_t word(const std::uint8_t* at) {
    return (static_cast<std::uint32_t>(at[0]) << 8U) | at[1];
}

struct Known {
    int function;
    bool read, write;
    RegisterArea area;
    std::uint32_t most;
};
constexpr std::array<Known, 10> kKnown = {{{1, true, false, RegisterArea::Coil, 2000},
                                           {2, true, false, RegisterArea::Discrete, 2000},
                                           {3, true, false, RegisterArea::Holding, 125},
                                           {4, true, false, RegisterArea::Input, 125},
                                           {5, false, true, RegisterArea::Coil, 1},
                                           {6, false, true, RegisterArea::Holding, 1},
                                           {15, false, true, RegisterArea::Coil, 1968},
                                           {16, false, true, RegisterArea::Holding, 123},
                                           {22, false, true, RegisterArea::Holding, 1},
                                           {23, true, true, RegisterArea::Holding, 125}}};

/// How much of `out` came until `deadline`: less than all when the other end has closed, or time was over.
std::size_t read_all(int socket, std::span<std::uint8_t> out, Clock::time_point deadline) {
    std::size_t come = 0;
    while (come < out.size()) {
        const ssize_t got = ::recv(socket, out.data() + come, out.size() - come, MSG_DONTWAIT);
        if (got > 0) {
            come += static_cast<std::size_t>(got);
            continue;
        }
        if (got == 0 || (errno != EAGAIN && errno != EWOULDBLOCK && errno != EINTR)) return come;
        const auto left = std::chrono::duration_cast<std::chrono::milliseconds>(deadline - Clock::now()).count();
        pollfd waiting{socket, POLLIN, 0};
        if (left <= 0 || ::poll(&waiting, 1, static_cast<int>(left)) <= 0) return come;
    }
    return come;
}

}  // namespace

std::span<std::uint8_t> read_frame(int socket, Frame& frame, bool& bad) {
    const auto deadline = Clock::now() + kFrame;
    const std::span<std::uint8_t> all(frame);
    const std::size_t come = read_all(socket, all.first(kHeader), deadline);
    bad = come > 0;
    if (come < kHeader) return {};
    const std::size_t behind = word(&frame[4]);  // the unit and what follows
    if (word(&frame[2]) != 0 || behind < 2 || kHeader - 1 + behind > frame.size()) return {};
    if (read_all(socket, all.subspan(kHeader, behind - 1), deadline) < behind - 1) return {};
    bad = false;
    return all.first(kHeader - 1 + behind);
}

Request parse_request(std::span<const std::uint8_t> frame) {
    Request out;
    if (frame.size() < kHeader + 1) {
        out.exception = kBadValue;
        return out;
    }
    out.function = frame[kHeader];
    const auto known =
        std::find_if(kKnown.begin(), kKnown.end(), [&](const Known& k) { return k.function == out.function; });
    if (known == kKnown.end()) {
        out.exception = kNoFunction;
        return out;
    }
    const std::uint8_t* data = frame.data() + kHeader + 1;
    const int left = static_cast<int>(frame.size() - kHeader - 1);
    const auto bad = [&] {
        out.exception = kBadValue;
        return out;
    };
    if (left < 4) return bad();
    const bool several = out.function == 15 || out.function == 16;
    out.reads = known->read;
    out.writes = known->write;
    out.read_area = out.write_area = known->area;
    if (out.function == 23) {
        if (left < 9) return bad();
        out.read_first = word(data);
        out.read_count = word(data + 2);
        out.write_first = word(data + 4);
        out.write_count = word(data + 6);
        const bool fits =
            out.write_count >= 1 && out.write_count <= 121 && data[8] == 2 * out.write_count && left == 9 + data[8];
        if (!fits || out.read_count < 1 || out.read_count > known->most) return bad();
        return out;
    }
    const std::uint32_t first = word(data), second = word(data + 2);
    if (out.reads) {
        out.read_first = first;
        out.read_count = second;
        if (second < 1 || second > known->most || left != 4) return bad();
        return out;
    }
    out.write_first = first;
    out.write_count = several ? second : 1;
    if (several) {
        const std::uint32_t bytes = out.function == 15 ? (second + 7) / 8 : 2 * second;
        if (left < 5 || second < 1 || second > known->most || data[4] != bytes || left != 5 + static_cast<int>(bytes))
            return bad();
    } else if (left != (out.function == 22 ? 6 : 4) || (out.function == 5 && second != 0 && second != 0xFF00)) {
        return bad();
    }
    return out;
}

namespace {

/// One request on its tables: the answer is sent while they are locked, so it has to fit what the socket takes at once.
/// False when the connection is of no more use.
bool carry_out(modbus_t* context, Tables& tables, const Request& request, std::span<std::uint8_t> frame,
               int& exception) {
    Tables::Locked locked(tables);
    controller::RegisterImage& image = locked.image();
    const auto there = [&](RegisterArea area, std::uint32_t first, std::uint32_t count) {
        return first + count <= image.size(area);
    };
    exception = 0;
    if (request.reads && !there(request.read_area, request.read_first, request.read_count)) exception = kNoAddress;
    if (request.writes && (!there(request.write_area, request.write_first, request.write_count) ||
                           !locked.may_write(request.write_area, request.write_first, request.write_count)))
        exception = kNoAddress;
    if (exception != 0) return modbus_reply_exception(context, frame.data(), static_cast<unsigned>(exception)) >= 0;
    modbus_mapping_t mapping{};
    mapping.nb_bits = static_cast<int>(image.size(RegisterArea::Coil));
    mapping.tab_bits = image.bits(RegisterArea::Coil).data();
    mapping.nb_input_bits = static_cast<int>(image.size(RegisterArea::Discrete));
    mapping.tab_input_bits = image.bits(RegisterArea::Discrete).data();
    mapping.nb_registers = static_cast<int>(image.size(RegisterArea::Holding));
    mapping.tab_registers = image.words(RegisterArea::Holding).data();
    mapping.nb_input_registers = static_cast<int>(image.size(RegisterArea::Input));
    mapping.tab_input_registers = image.words(RegisterArea::Input).data();
    const bool answered = modbus_reply(context, frame.data(), static_cast<int>(frame.size()), &mapping) >= 0;
    locked.asked();
    if (request.writes) locked.wrote(request.write_area, request.write_first, request.write_count);
    return answered;
}

}  // namespace

bool answer(modbus_t* connection, std::span<std::uint8_t> frame, const std::vector<Unit>& units, int& exception) {
    const Request request = parse_request(frame);
    const int id = frame[kHeader - 1];
    const auto unit = std::find_if(units.begin(), units.end(), [&](const Unit& u) { return u.id == id; });
    // 0 and 255 mean whoever is there (Modbus messaging on TCP/IP, 4.4.1).
    const bool any = units.size() == 1 && (id == 0 || id == 255);
    exception = request.exception;
    if (exception == 0 && unit == units.end() && !any) exception = kNoUnit;
    if (exception != 0) return modbus_reply_exception(connection, frame.data(), static_cast<unsigned>(exception)) >= 0;
    Tables& tables = *(any ? units.front() : *unit).tables;
    return carry_out(connection, tables, request, frame, exception);
}

}  // namespace vyard::link
