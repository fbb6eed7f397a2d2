#include "link/client.hpp"

#include <fmt/format.h>
#include <modbus/modbus.h>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <sys/socket.h>

#include <algorithm>
#include <cerrno>
#include <tuple>

namespace vyard::link {

using controller::RegisterArea;
using controller::RegisterPlace;

std::vector<Block> blocks_of(const std::vector<Cell>& cells, const std::vector<int>& which, bool write) {
    std::vector<int> order = which;
    const auto place = [&](int c) -> const RegisterPlace& { return base::at(cells, c).place; };
    std::sort(order.begin(), order.end(), [&](int a, int b) {
        return std::tuple(place(a).area, place(a).first, place(a).bit) <
               std::tuple(place(b).area, place(b).first, place(b).bit);
    });
    std::vector<Block> out;
    for (const int c : order) {
        const RegisterPlace& p = place(c);
        const std::uint32_t most = controller::is_bits(p.area) ? (write ? 1968 : 2000) : (write ? 123 : 125);
        const bool joins = !out.empty() && out.back().area == p.area &&
                           p.first <= out.back().first + out.back().count && p.end() - out.back().first <= most;
        if (!joins) out.push_back({p.area, p.first, 0, {}});
        Block& block = out.back();
        block.count = std::max(block.count, p.end() - block.first);
        block.cells.push_back(c);
    }
    return out;
}

void Client::FreeContext::operator()(modbus_t* m) const {
    modbus_close(m);
    modbus_free(m);
}

Client::Client(std::string host, int port, int unit, std::vector<Cell> cells)
    : host_(std::move(host)), port_(port), unit_(unit), cells_(std::move(cells)) {}
Client::~Client() = default;
Client::Client(Client&&) noexcept = default;

void Client::disconnect() {
    context_.reset();
    connected_ = false;
}

bool Client::failed(const char* what) {
    problem_ = fmt::format("{} at {}:{}: {}", what, host_, port_, modbus_strerror(errno));
    disconnect();
    return false;
}

bool Client::connect(std::chrono::milliseconds longest) {
    if (connected_) return true;
    context_.reset(modbus_new_tcp_pi(host_.c_str(), std::to_string(port_).c_str()));
    if (context_ == nullptr) return failed("cannot connect");
    modbus_set_slave(context_.get(), unit_);
    const auto us = static_cast<std::uint32_t>(std::chrono::microseconds(longest).count());
    modbus_set_response_timeout(context_.get(), us / 1'000'000, us % 1'000'000);
    if (modbus_connect(context_.get()) != 0) return failed("cannot connect");
    const int one = 1;
    ::setsockopt(modbus_get_socket(context_.get()), IPPROTO_TCP, TCP_NODELAY, &one, sizeof one);
    connected_ = true;
    problem_.clear();
    return true;
}

bool Client::read(const std::vector<Block>& blocks, std::vector<logic::Value>& by_cell) {
    if (!connected_) return false;
    by_cell.resize(cells_.size());
    controller::RegisterImage image;
    for (const Block& b : blocks) {
        image.hold({b.area, b.first, static_cast<int>(b.count)});
        const int first = static_cast<int>(b.first), count = static_cast<int>(b.count);
        int got = -1;
        ++requests_;
        switch (b.area) {
            case RegisterArea::Coil:
                got = modbus_read_bits(context_.get(), first, count, image.bits(b.area).data() + first);
                break;
            case RegisterArea::Discrete:
                got = modbus_read_input_bits(context_.get(), first, count, image.bits(b.area).data() + first);
                break;
            case RegisterArea::Input:
                got = modbus_read_input_registers(context_.get(), first, count, image.words(b.area).data() + first);
                break;
            case RegisterArea::Holding:
                got = modbus_read_registers(context_.get(), first, count, image.words(b.area).data() + first);
                break;
        }
        if (got != count)
            return failed(
                fmt::format("cannot read {} {} to {}", controller::area_name(b.area), first, first + count - 1)
                    .c_str());
        for (const int c : b.cells)
            base::at(by_cell, c) = image.get(base::at(cells_, c).place, base::at(cells_, c).type);
    }
    return true;
}

bool Client::write(const std::vector<Block>& blocks, const std::vector<logic::Value>& by_cell) {
    if (!connected_) return false;
    controller::RegisterImage image;
    for (const Block& b : blocks) {
        image.hold({b.area, b.first, static_cast<int>(b.count)});
        for (const int c : b.cells) image.put(base::at(cells_, c).place, base::at(by_cell, c));
        const int first = static_cast<int>(b.first), count = static_cast<int>(b.count);
        ++requests_;
        const int done = b.area == RegisterArea::Coil
                             ? modbus_write_bits(context_.get(), first, count, image.bits(b.area).data() + first)
                             : modbus_write_registers(context_.get(), first, count, image.words(b.area).data() + first);
        if (done != count)
            return failed(
                fmt::format("cannot write {} {} to {}", controller::area_name(b.area), first, first + count - 1)
                    .c_str());
    }
    return true;
}

std::optional<std::uint16_t> Client::read_word(RegisterArea area, int number) {
    if (!connected_) return std::nullopt;
    std::uint16_t out = 0;
    ++requests_;
    const int got = area == RegisterArea::Input ? modbus_read_input_registers(context_.get(), number, 1, &out)
                                                : modbus_read_registers(context_.get(), number, 1, &out);
    if (got == 1) return out;
    failed("cannot read the handshake");
    return std::nullopt;
}

bool Client::write_word(int number, std::uint16_t value) {
    if (!connected_) return false;
    ++requests_;
    return modbus_write_register(context_.get(), number, value) == 1 || failed("cannot write the handshake");
}

}  // namespace vyard::link
