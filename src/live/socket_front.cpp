#include "live/socket_front.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/socket.h>
#include <sys/stat.h>
#include <sys/un.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <nlohmann/json.hpp>

namespace vyard::live {

using nlohmann::json;

namespace {

enum Error : int { kParse = -32700, kInvalid = -32600, kNoMethod = -32601, kWrongParams = -32602 };

/// The path by way of its folder, as names of sockets are short.
class ShortPath {
  public:
    explicit ShortPath(const std::string& path) {
        const std::filesystem::path p(path);
        folder_ = ::open(p.has_parent_path() ? p.parent_path().c_str() : ".", O_PATH | O_DIRECTORY | O_CLOEXEC);
        text_ = fmt::format("/proc/self/fd/{}/{}", folder_, p.filename().string());
    }
    ~ShortPath() {
        if (folder_ >= 0) ::close(folder_);
    }
    ShortPath(const ShortPath&) = delete;
    ShortPath& operator=(const ShortPath&) = delete;

    bool address(sockaddr_un& out) const {
        out = {};
        out.sun_family = AF_UNIX;
        if (folder_ < 0 || text_.size() >= sizeof out.sun_path) return false;
        std::memcpy(out.sun_path, text_.c_str(), text_.size() + 1);
        return true;
    }

  private:
    int folder_ = -1;
    std::string text_;
};

const char* kind_name(Reply::Kind kind) {
    switch (kind) {
        case Reply::Kind::Answer: return "answer";
        case Reply::Kind::Wrong: return "wrong";
        case Reply::Kind::Change: return "change";
        case Reply::Kind::Event: return "event";
    }
    return "answer";
}

json reply_json(const Reply& reply) {
    json out{{"text", reply.text}, {"kind", kind_name(reply.kind)}};
    if (reply.at) out["time_s"] = base::to_seconds(*reply.at);
    return out;
}

std::string dumped(const json& message) {
    return message.dump(-1, ' ', false, json::error_handler_t::replace) + "\n";
}

std::string result_text(const std::string& id, json result) {
    return dumped({{"jsonrpc", "2.0"}, {"id", json::parse(id)}, {"result", std::move(result)}});
}
std::string error_text(const std::string& id, int code, const std::string& message) {
    return dumped({{"jsonrpc", "2.0"}, {"id", json::parse(id)}, {"error", {{"code", code}, {"message", message}}}});
}

json status_json(const Sitting& sitting) {
    const session::Session& session = sitting.desk().session();
    json controllers = json::array();
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c) {
        const auto& state = session.controller(static_cast<int>(c));
        controllers.push_back({{"name", session.model().controllers[c].name},
                               {"mode", !state.powered  ? "no power"
                                        : state.running ? "run"
                                                        : "stop"},
                               {"scans", state.scans},
                               {"forces_on", state.forces_on}});
    }
    const Lateness& late = sitting.lateness();
    return {{"time_s", base::to_seconds(session.now())},
            {"pace", sitting.pace()},
            {"time_stands", sitting.paused()},
            {"controllers", std::move(controllers)},
            {"forces", session::forces_text(session)},
            {"faults", session::faults_text(session)},
            {"broken_rules", sitting.desk().broken_rules()},
            {"time_steps", late.steps()},
            {"late_time_steps", late.overruns()},
            {"late_median_us", late.within(0.5).count() / 1000},
            {"late_99_us", late.within(0.99).count() / 1000}};
}

/// What was said to an order.
json answer_json(const std::vector<Reply>& said) {
    json replies = json::array();
    bool obeyed = true;
    for (const Reply& reply : said) {
        replies.push_back(reply_json(reply));
        obeyed = obeyed && reply.kind != Reply::Kind::Wrong && reply.kind != Reply::Kind::Event;
    }
    return {{"obeyed", obeyed}, {"replies", std::move(replies)}};
}

/// The names of a request: a text as `watch` takes it, or a list of names.
std::string names_of(const json& params) {
    if (!params.is_object() || !params.contains("names")) return {};
    const json& names = params.at("names");
    if (names.is_string()) return names.get<std::string>();
    std::string out;
    if (!names.is_array()) return out;
    for (const json& n : names) {
        if (!n.is_string()) return {};
        if (!out.empty()) out.append(", ");
        out.append(n.get<std::string>());
    }
    return out;
}

}  // namespace

std::unique_ptr<SocketFront> SocketFront::open(const std::string& path, Asker first_asker, const std::string& version,
                                               std::string& why) {
    std::unique_ptr<SocketFront> out(new SocketFront());
    out->path_ = path;
    out->version_ = version;
    out->next_asker_ = first_asker;
    out->listening_ = ::socket(AF_UNIX, SOCK_STREAM | SOCK_NONBLOCK | SOCK_CLOEXEC, 0);
    const ShortPath shorter(path);
    sockaddr_un address{};
    ::unlink(path.c_str());  // of a session that was killed; who holds the lock may
    const mode_t before = ::umask(0177);
    const bool bound = out->listening_ >= 0 && shorter.address(address) &&
                       ::bind(out->listening_, reinterpret_cast<const sockaddr*>(&address), sizeof address) == 0 &&
                       ::listen(out->listening_, 8) == 0;
    const int failure = errno;
    ::umask(before);
    if (bound) return out;
    why = fmt::format("cannot listen at {}: {}", path, std::strerror(failure));
    return nullptr;
}

SocketFront::~SocketFront() {
    for (auto& [number, c] : clients_) ::close(c.descriptor);
    if (listening_ < 0) return;
    ::close(listening_);
    ::unlink(path_.c_str());
}

void SocketFront::wants(const Sitting&, std::vector<pollfd>& out) const {
    out.push_back({listening_, POLLIN, 0});
    for (const auto& [number, c] : clients_)
        out.push_back({c.descriptor, static_cast<short>(c.out.empty() ? POLLIN : POLLIN | POLLOUT), 0});
}

void SocketFront::accept_all() {
    for (int i = 0; i < 8; ++i) {
        const int got = ::accept4(listening_, nullptr, nullptr, SOCK_NONBLOCK | SOCK_CLOEXEC);
        if (got < 0) return;
        ucred who{};
        socklen_t size = sizeof who;
        const bool known = ::getsockopt(got, SOL_SOCKET, SO_PEERCRED, &who, &size) == 0;
        if (!known || (who.uid != ::geteuid() && who.uid != 0) || clients_.size() >= kMostClients) {
            ::close(got);
            continue;
        }
        clients_[next_client_++].descriptor = got;
    }
}

void SocketFront::serve(Sitting& sitting) {
    if (clients_.empty()) {
        pollfd waiting{listening_, POLLIN, 0};
        if (::poll(&waiting, 1, 0) <= 0) return;
    }
    accept_all();
    std::vector<std::size_t> numbers;
    for (const auto& [number, c] : clients_) numbers.push_back(number);
    for (const std::size_t number : numbers) read(number, sitting);
    answer_done(sitting);
    for (auto& [number, c] : clients_) flush(c);
    for (const std::size_t number : numbers) {
        if (!clients_.at(number).gone) continue;
        ::close(clients_.at(number).descriptor);
        clients_.erase(number);
        std::erase_if(requests_, [&](const auto& r) { return r.second.client == number; });
    }
}

bool SocketFront::more(const Sitting&) const {
    return std::any_of(clients_.begin(), clients_.end(),
                       [](const auto& c) { return !c.second.gone && c.second.in.find('\n') != std::string::npos; });
}

void SocketFront::read(std::size_t number, Sitting& sitting) {
    Client& c = clients_.at(number);
    char buffer[4096];
    // What is there already is served first, so that a flood stays in the client's own socket.
    const auto lines = std::count(c.in.begin(), c.in.end(), '\n');
    if (lines < kRequestsAtATime) {
        const ssize_t got = ::recv(c.descriptor, buffer, sizeof buffer, 0);
        if (got == 0 || (got < 0 && errno != EAGAIN && errno != EINTR)) c.gone = true;
        if (got > 0) c.in.append(buffer, static_cast<std::size_t>(got));
    }
    for (int i = 0; i < kRequestsAtATime; ++i) {
        const std::size_t end = c.in.find('\n');
        if (end == std::string::npos) break;
        const std::string line = c.in.substr(0, end);
        c.in.erase(0, end + 1);
        if (line.find_first_not_of(" \t\r") != std::string::npos) request(number, line, sitting);
    }
    if (c.in.size() <= kLongestRequest || c.in.find('\n') != std::string::npos) return;
    send(c, error_text("null", kInvalid, fmt::format("a request has {} bytes at most", kLongestRequest)));
    flush(c);
    c.gone = true;
}

void SocketFront::request(std::size_t number, const std::string& line, Sitting& sitting) {
    Client& c = clients_.at(number);
    const json j = json::parse(line, nullptr, false);
    if (j.is_discarded()) return send(c, error_text("null", kParse, "this is not JSON"));
    const bool right = j.is_object() && j.value("jsonrpc", json()) == "2.0" && j.contains("method") &&
                       j.at("method").is_string() && (!j.contains("id") || !j.at("id").is_structured());
    if (!right)
        return send(c, error_text("null", kInvalid,
                                  j.is_array() ? "requests come one a line, not as a batch"
                                               : "this is not a JSON-RPC 2.0 request"));
    const std::string id = j.contains("id") ? j.at("id").dump() : "null";
    const bool notification = !j.contains("id");
    const std::string method = j.at("method").get<std::string>();
    const json params = j.value("params", json::object());
    const auto answer = [&](json result) {
        if (!notification) send(c, result_text(id, std::move(result)));
    };
    const auto refuse = [&](int code, const std::string& message) {
        if (!notification) send(c, error_text(id, code, message));
    };
    if (method == "hello") {
        answer({{"protocol", kProtocolVersion},
                {"version", version_},
                {"yard", sitting.desk().session().model().name},
                {"time_s", base::to_seconds(sitting.desk().now())}});
    } else if (method == "status") {
        answer(status_json(sitting));
    } else if (method == "order") {
        if (!params.is_object() || !params.contains("line") || !params.at("line").is_string())
            return refuse(kWrongParams, "'order' needs a string 'line'");
        const Asker asker = next_asker_++;
        requests_[asker] = {number, id, notification, {}};
        std::string text = params.at("line").get<std::string>();
        std::replace(text.begin(), text.end(), '\n', ' ');
        sitting.obey(text, 1, asker);
    } else if (method == "read") {
        const std::string names = names_of(params);
        if (names.empty()) return refuse(kWrongParams, "'read' needs 'names', a string or a list");
        const WatchRequest found = read_watch(sitting.desk().session(), names);
        if (!found.problem.empty()) return refuse(kWrongParams, found.problem);
        json values = json::object();
        for (const Watched& w : found.watched)
            values[w.name] = {{"text", w.last}, {"number", w.number(sitting.desk().session())}};
        answer({{"time_s", base::to_seconds(sitting.desk().now())}, {"values", std::move(values)}});
    } else if (method == "follow") {
        const std::string names = names_of(params);
        WatchRequest found;
        if (!names.empty()) found = read_watch(sitting.desk().session(), names);
        if (!found.problem.empty()) return refuse(kWrongParams, found.problem);
        c.model = sitting.desk().session().model_ptr();
        c.follows = !params.is_object() || params.value("said", true);
        json values = json::object();
        for (Watched& w : found.watched) {
            values[w.name] = w.last;
            c.watched.push_back(std::move(w));
        }
        answer({{"time_s", base::to_seconds(sitting.desk().now())}, {"values", std::move(values)}});
    } else {
        refuse(kNoMethod, fmt::format("no method is named '{}'; there are hello, order, read, follow, status", method));
    }
}

/// What is said to a request goes into its answer; what concerns all goes to those who follow.
void SocketFront::show(const Sitting&, const Reply& reply) {
    const auto found = requests_.find(reply.asker);
    if (found != requests_.end()) found->second.replies.push_back(reply);
    for (auto& [number, c] : clients_) {
        const bool own = found != requests_.end() && found->second.client == number;
        if (c.follows && !own) send(c, dumped({{"jsonrpc", "2.0"}, {"method", "said"}, {"params", reply_json(reply)}}));
    }
}

void SocketFront::answer_done(Sitting& sitting) {
    for (auto at = requests_.begin(); at != requests_.end();) {
        Request& r = at->second;
        // Replies come when the loop delivers them, so an order is answered at the look after it is done.
        if (sitting.busy(at->first) || !std::exchange(r.ready, true)) {
            ++at;
            continue;
        }
        const auto client = clients_.find(r.client);
        if (client != clients_.end() && !r.notification)
            send(client->second, result_text(r.id, answer_json(r.replies)));
        at = requests_.erase(at);
    }
}

void SocketFront::draw(Sitting& sitting, base::Nanoseconds, std::optional<base::Nanoseconds>) {
    look(sitting);
    answer_done(sitting);
    for (auto& [number, c] : clients_) flush(c);
}

void SocketFront::look(Sitting& sitting) {
    const session::Session& session = sitting.desk().session();
    for (auto& [number, c] : clients_) {
        if (c.watched.empty()) continue;
        if (c.model != session.model_ptr()) {  // read anew, or gone back to before that
            c.model = session.model_ptr();
            std::vector<Watched> now;
            for (Watched& w : c.watched) {
                WatchRequest again = read_watch(session, w.name);
                if (again.watched.size() != 1) continue;
                again.watched[0].manner = w.manner;
                again.watched[0].last.assign(w.last);
                now.push_back(std::move(again.watched[0]));
            }
            c.watched = std::move(now);
        }
        for (Watched& w : c.watched) {
            if (session.now() < w.changed) w.changed = {};
            if (!w.look(session)) continue;
            send(c, dumped({{"jsonrpc", "2.0"},
                            {"method", "changed"},
                            {"params",
                             {{"name", w.name}, {"text", w.last}, {"time_s", base::to_seconds(session.now())}}}}));
        }
    }
}

void SocketFront::send(Client& client, const std::string& message) {
    if (client.gone) return;
    client.out.append(message);
    if (client.out.size() <= kMostUnread) return;
    client.gone = true;  // it does not read
    client.out.clear();
}

void SocketFront::flush(Client& client) {
    while (!client.out.empty() && !client.gone) {
        const ssize_t done =
            ::send(client.descriptor, client.out.data(), client.out.size(), MSG_NOSIGNAL | MSG_DONTWAIT);
        if (done < 0 && errno == EINTR) continue;
        if (done < 0 && errno != EAGAIN) client.gone = true;
        if (done <= 0) return;
        client.out.erase(0, static_cast<std::size_t>(done));
    }
}

int connect_to(const std::string& path, std::string& why) {
    const int out = ::socket(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0);
    const ShortPath shorter(path);
    sockaddr_un address{};
    if (out >= 0 && shorter.address(address) &&
        ::connect(out, reinterpret_cast<const sockaddr*>(&address), sizeof address) == 0)
        return out;
    why = std::strerror(errno);
    if (out >= 0) ::close(out);
    return -1;
}

}  // namespace vyard::live
