#include "link/server.hpp"

#include <arpa/inet.h>
#include <fmt/format.h>
#include <modbus/modbus.h>
#include <netdb.h>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstring>

namespace vyard::link {

using Clock = std::chrono::steady_clock;

namespace {

constexpr int kPoll_ms = 100;
constexpr auto kIdle = std::chrono::minutes(5);  ///< A client that asks nothing for so long is closed.
constexpr int kStuck_ms = 2000;                  ///< One that reads nothing for so long, too.

std::string address_of(const sockaddr_storage& from) {
    std::array<char, NI_MAXHOST> text{};
    const auto length = static_cast<socklen_t>(from.ss_family == AF_INET6 ? sizeof(sockaddr_in6) : sizeof(sockaddr_in));
    if (::getnameinfo(reinterpret_cast<const sockaddr*>(&from), length, text.data(), text.size(), nullptr, 0,
                      NI_NUMERICHOST) != 0)
        return "";
    std::string out = text.data();
    return out.starts_with("::ffff:") ? out.substr(7) : out;
}

std::vector<std::uint8_t> bytes_of(const std::string& address) {
    std::array<std::uint8_t, 16> raw{};
    if (::inet_pton(AF_INET, address.c_str(), raw.data()) == 1) return {raw.begin(), raw.begin() + 4};
    if (::inet_pton(AF_INET6, address.c_str(), raw.data()) == 1) return {raw.begin(), raw.end()};
    return {};
}

struct FreeContext {
    void operator()(modbus_t* m) const { modbus_free(m); }
};

}  // namespace

bool within_network(const std::string& network, const std::string& address) {
    const std::size_t slash = network.find('/');
    const auto base_bytes = bytes_of(network.substr(0, slash)), bytes = bytes_of(address);
    if (base_bytes.empty() || base_bytes.size() != bytes.size()) return false;
    int bits = static_cast<int>(bytes.size()) * 8;
    if (slash != std::string::npos) {
        const std::string text = network.substr(slash + 1);
        if (text.empty() || text.size() > 3 || text.find_first_not_of("0123456789") != std::string::npos) return false;
        if (std::stoi(text) > bits) return false;
        bits = std::stoi(text);
    }
    for (std::size_t i = 0; i < bytes.size() && bits > 0; ++i, bits -= 8) {
        const auto mask = static_cast<std::uint8_t>(bits >= 8 ? 0xFF : 0xFF << (8 - bits));
        if ((base_bytes[i] & mask) != (bytes[i] & mask)) return false;
    }
    return true;
}

bool is_loopback(const std::string& host) {
    return host == "localhost" || host == "::1" || within_network("127.0.0.0/8", host);
}

struct Server::Client {
    int socket = -1;
    std::atomic<bool> ended = false;
    std::thread thread;
};

Server::Server(ServerOptions options, std::vector<Unit> units, std::string& problem)
    : options_(std::move(options)), units_(std::move(units)) {
    const std::unique_ptr<modbus_t, FreeContext> context(
        modbus_new_tcp_pi(options_.host.c_str(), std::to_string(options_.port).c_str()));
    if (context != nullptr) socket_ = modbus_tcp_pi_listen(context.get(), 16);
    if (socket_ < 0) {
        problem = fmt::format("cannot listen at {}:{}: {}", options_.host, options_.port,
                              errno == 0 ? "no such address" : modbus_strerror(errno));
        return;
    }
    sockaddr_storage own{};
    socklen_t length = sizeof own;
    if (::getsockname(socket_, reinterpret_cast<sockaddr*>(&own), &length) == 0)
        port_ = ntohs(own.ss_family == AF_INET6 ? reinterpret_cast<const sockaddr_in6&>(own).sin6_port
                                                : reinterpret_cast<const sockaddr_in&>(own).sin_port);
    listener_ = std::thread([this] { listen(); });
}

Server::~Server() {
    ends_ = true;
    if (listener_.joinable()) listener_.join();
    for (auto& client : all_) {
        ::shutdown(client->socket, SHUT_RDWR);
        client->thread.join();
        ::close(client->socket);
    }
    if (socket_ >= 0) ::close(socket_);
}

ServerCounts Server::counts() const {
    return {requests_, exceptions_, bad_frames_, refused_, connected_, clients_};
}

void Server::listen() {
    while (!ends_) {
        pollfd waiting{socket_, POLLIN, 0};
        if (::poll(&waiting, 1, kPoll_ms) > 0) accept_one();
        forget_ended();
    }
}

void Server::forget_ended() {
    for (auto c = all_.begin(); c != all_.end();) {
        if (!(*c)->ended) {
            ++c;
            continue;
        }
        (*c)->thread.join();
        ::close((*c)->socket);
        c = all_.erase(c);
    }
}

bool Server::may_connect(const std::string& address) const {
    if (options_.from.empty()) return is_loopback(address) || is_loopback(options_.host);
    return std::any_of(options_.from.begin(), options_.from.end(),
                       [&](const std::string& network) { return within_network(network, address); });
}

void Server::accept_one() {
    sockaddr_storage from{};
    socklen_t length = sizeof from;
    const int socket = ::accept4(socket_, reinterpret_cast<sockaddr*>(&from), &length, SOCK_CLOEXEC);
    if (socket < 0) return;
    forget_ended();
    if (!may_connect(address_of(from)) || clients_ >= options_.clients) {
        ++refused_;
        ::close(socket);
        return;
    }
    ++connected_;
    ++clients_;
    auto client = std::make_unique<Client>();
    client->socket = socket;
    Client& it = *client;
    it.thread = std::thread([this, &it] {
        serve(it);
        ::shutdown(it.socket, SHUT_RDWR);
        --clients_;
        it.ended = true;
    });
    all_.push_back(std::move(client));
}

namespace {

/// So many requests a second, and the rest waits.
class Allowance {
  public:
    explicit Allowance(int most) : most_(most) {}
    void one() {
        if (most_ <= 0) return;
        const auto now = Clock::now();
        if (now - since_ >= std::chrono::seconds(1)) {
            since_ = now;
            done_ = 0;
        }
        if (++done_ <= most_) return;
        std::this_thread::sleep_until(since_ + std::chrono::seconds(1));
        since_ = Clock::now();
        done_ = 1;
    }

  private:
    int most_, done_ = 0;
    Clock::time_point since_ = Clock::now();
};

}  // namespace

void Server::serve(Client& client) {
    const std::unique_ptr<modbus_t, FreeContext> context(modbus_new_tcp("127.0.0.1", 1));
    if (context == nullptr) return;
    modbus_set_socket(context.get(), client.socket);
    const int one = 1;
    ::setsockopt(client.socket, IPPROTO_TCP, TCP_NODELAY, &one, sizeof one);
    ::setsockopt(client.socket, SOL_SOCKET, SO_KEEPALIVE, &one, sizeof one);
    Frame frame{};
    Allowance allowance(options_.requests);
    auto asked = Clock::now();
    while (!ends_) {
        pollfd waiting{client.socket, POLLIN, 0};
        const int ready = ::poll(&waiting, 1, kPoll_ms);
        if (ready == 0 && Clock::now() - asked < kIdle) continue;
        if (ready <= 0) return;
        bool bad = false;
        const std::span<std::uint8_t> request = read_frame(client.socket, frame, bad);
        if (bad) ++bad_frames_;
        if (request.empty()) return;
        asked = Clock::now();
        allowance.one();
        ++requests_;
        // Where the last answers were not read, there may be no room for this one, and nobody waits for it locked.
        pollfd room{client.socket, POLLOUT, 0};
        if (::poll(&room, 1, kStuck_ms) <= 0) return;
        int exception = 0;
        const bool goes_on = answer(context.get(), request, units_, exception);
        if (exception != 0) ++exceptions_;
        if (!goes_on) return;
    }
}

}  // namespace vyard::link
