// Other terminals: a Unix domain socket that only its owner may open, speaking JSON-RPC 2.0, one message a line
// (docs/live-protocol.md). Nothing that a client does can hold up the plant: reads and writes never wait, so many
// requests are served at a time, and a client that does not read what it asked for is let go.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "live/loop.hpp"

namespace vyard::live {

constexpr int kProtocolVersion = 1;
constexpr std::size_t kMostClients = 16;
constexpr std::size_t kLongestRequest = 64U << 10;  ///< Bytes; a longer one ends the connection.
constexpr std::size_t kMostUnread = 1U << 20;       ///< Bytes that a client may leave unread before it is let go.
constexpr int kRequestsAtATime = 32;                ///< Of a client, between two steps.

class SocketFront final : public Front {
  public:
    /// Null when it cannot be made; `why` says so. Askers are numbered from `first_asker` on, one a request.
    static std::unique_ptr<SocketFront> open(const std::string& path, Asker first_asker, const std::string& version,
                                             std::string& why);
    ~SocketFront() override;
    SocketFront(const SocketFront&) = delete;
    SocketFront& operator=(const SocketFront&) = delete;

    void wants(const Sitting& sitting, std::vector<pollfd>& out) const override;
    void serve(Sitting& sitting) override;
    bool more(const Sitting& sitting) const override;
    void show(const Sitting& sitting, const Reply& reply) override;
    void draw(Sitting& sitting, base::Nanoseconds now, std::optional<base::Nanoseconds> until) override;
    bool ended() const override { return true; }

  private:
    SocketFront() = default;
    struct Client {
        int descriptor = -1;
        std::string in, out;
        bool follows = false;  ///< Gets what is said to all.
        std::vector<Watched> watched;
        session::SessionModelPtr model;  ///< That `watched` is of.
        bool gone = false;
    };
    /// A request whose answer is still to come.
    struct Request {
        std::size_t client = 0;
        std::string id;  ///< As JSON.
        bool notification = false;
        std::vector<Reply> replies;
        bool ready = false;  ///< It was done at the last look.
    };

    void accept_all();
    void read(std::size_t number, Sitting& sitting);
    void request(std::size_t number, const std::string& line, Sitting& sitting);
    void answer_done(Sitting& sitting);
    void send(Client& client, const std::string& message);
    void flush(Client& client);
    void look(Sitting& sitting);

    std::string path_, version_;
    int listening_ = -1;
    Asker next_asker_ = 0;
    std::map<std::size_t, Client> clients_;
    std::size_t next_client_ = 1;
    std::map<Asker, Request> requests_;
};

/// Connects to the socket of a session; -1 when there is none that answers, `why` says so.
int connect_to(const std::string& path, std::string& why);

}  // namespace vyard::live
