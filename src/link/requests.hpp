// What comes over a connection of a server, a frame at a time, and what is answered to it.
#pragma once

#include <array>
#include <memory>
#include <span>
#include <vector>

#include "link/tables.hpp"

struct _modbus;

namespace vyard::link {

/// What answers to one unit id.
struct Unit {
    int id = 1;
    std::shared_ptr<Tables> tables;
};

/// The longest there is (Modbus messaging on TCP/IP, 4.2).
using Frame = std::array<std::uint8_t, 260>;
/// The next frame of a connection: as many bytes as its header says, whatever the function, so that one that is unknown
/// does not spoil the next. Empty when there is none: the connection has ended, or with `bad` sent what is no frame.
std::span<std::uint8_t> read_frame(int socket, Frame& frame, bool& bad);

/// What a request asks for, as far as its frame says; null for what is no request that is served.
struct Request {
    int function = 0;
    bool reads = false, writes = false;
    controller::RegisterArea read_area = controller::RegisterArea::Coil, write_area = controller::RegisterArea::Coil;
    std::uint32_t read_first = 0, read_count = 0, write_first = 0, write_count = 0;
    int exception = 0;  ///< What is wrong with it by itself: 1 no such function, 3 counts beyond the protocol's limits.
};
/// `frame`: with its header of 7 bytes, as long as the header says (Modbus application protocol V1.1b3, 6).
Request parse_request(std::span<const std::uint8_t> frame);

/// Answers one request that came over a connection, on the tables of its unit; false when the connection is of no more
/// use. `exception`: the code that it was refused with, or 0.
bool answer(_modbus* connection, std::span<std::uint8_t> frame, const std::vector<Unit>& units, int& exception);

}  // namespace vyard::link
