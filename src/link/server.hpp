// A Modbus TCP server: listens, and carries out requests on tables. Each client has a thread of its own, so that one
// that sends half a frame, reads nothing or floods holds up nobody else.
#pragma once

#include <atomic>
#include <list>
#include <memory>
#include <string>
#include <thread>
#include <vector>

#include "link/requests.hpp"

namespace vyard::link {

struct ServerOptions {
    std::string host = "127.0.0.1";
    int port = 1502;  ///< 0: any that is free; see Server::port().
    std::vector<std::string>
        from;             ///< Addresses, or networks as 10.0.0.0/8, that may connect; empty: this machine alone.
    int clients = 8;      ///< At once; more are closed at once.
    int requests = 1000;  ///< A second, of each; more wait. 0: as many as come.

    bool operator==(const ServerOptions&) const = default;
};

/// Counted since it began.
struct ServerCounts {
    std::uint64_t requests = 0, exceptions = 0, bad_frames = 0, refused = 0, connected = 0;
    int clients = 0;  ///< Now.
};

class Server {
  public:
    /// Listens at once. `problem`: why it cannot; then it does nothing.
    Server(ServerOptions options, std::vector<Unit> units, std::string& problem);
    Server(const Server&) = delete;
    Server& operator=(const Server&) = delete;
    ~Server();

    int port() const { return port_; }
    const std::string& host() const { return options_.host; }
    ServerCounts counts() const;

  private:
    struct Client;
    void listen();
    void accept_one();
    void serve(Client& client);
    bool may_connect(const std::string& address) const;
    void forget_ended();

    ServerOptions options_;
    std::vector<Unit> units_;
    int socket_ = -1, port_ = 0;
    std::atomic<bool> ends_ = false;
    std::atomic<std::uint64_t> requests_ = 0, exceptions_ = 0, bad_frames_ = 0, refused_ = 0, connected_ = 0;
    std::atomic<int> clients_ = 0;
    std::list<std::unique_ptr<Client>> all_;  ///< Of the listening thread alone.
    std::thread listener_;
};

/// "10.0.0.0/8" or "127.0.0.1" against an address; IPv6 too. False where the first is neither.
bool within_network(const std::string& network, const std::string& address);
/// Whether only this machine can reach what listens there.
bool is_loopback(const std::string& host);

}  // namespace vyard::link
