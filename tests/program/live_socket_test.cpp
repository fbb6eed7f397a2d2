// Other terminals at a live session: the socket's protocol as a client of its own sees it, and `vyard tell`.
#include <chrono>
#include <nlohmann/json.hpp>
#include <random>
#include <thread>

#include "live/socket_front.hpp"
#include "program/support.hpp"

// Last: they bring macros of common names.
#include <sys/socket.h>
#include <sys/stat.h>

#include <csignal>

using namespace vyard;
using namespace vyard::test;
using nlohmann::json;

namespace {

/// A session in the background, in a folder of its own.
class Server {
  public:
    explicit Server(const std::string& options = "--pace 1") {
        write_small_yard(folder);
        start(options);
    }
    ~Server() {
        const pid_t pid = process();
        if (pid > 0) ::kill(pid, SIGTERM);
        for (int k = 0; k < 400 && folder.has(".vyard/live.socket"); ++k)
            std::this_thread::sleep_for(std::chrono::milliseconds(10));
    }
    Server(const Server&) = delete;
    Server& operator=(const Server&) = delete;

    void start(const std::string& options) {
        const std::string command = fmt::format(
            "cd '{}' && (mkfifo in 2>/dev/null; setsid sh -c \"exec 9<>in; exec '{}' live . --state on {} <in >out.txt "
            "2>&1\" &)",
            folder.path().string(), VYARD_PROGRAM, options);
        REQUIRE(std::system(command.c_str()) == 0);
        REQUIRE(comes([&] { return folder.has(".vyard/live.socket") && client().said("hello").contains("result"); }));
    }
    pid_t process() const {
        std::istringstream in(folder.read(".vyard/lock"));
        pid_t pid = 0;
        in >> pid;
        return pid;
    }
    template <class What>
    static bool comes(const What& what) {
        for (int k = 0; k < 400; ++k) {
            if (what()) return true;
            std::this_thread::sleep_for(std::chrono::milliseconds(20));
        }
        return false;
    }

    class Client {
      public:
        explicit Client(const std::string& path) { descriptor_ = live::connect_to(path, why); }
        ~Client() {
            if (descriptor_ >= 0) ::close(descriptor_);
        }
        Client(const Client&) = delete;
        Client& operator=(const Client&) = delete;

        void send(const std::string& text) const { (void)!::send(descriptor_, text.data(), text.size(), MSG_NOSIGNAL); }
        /// The next message; null when none comes within some seconds, or at the end.
        json next() {
            while (in_.find('\n') == std::string::npos) {
                pollfd waiting{descriptor_, POLLIN, 0};
                if (::poll(&waiting, 1, 8000) <= 0) return nullptr;
                char buffer[4096];
                const ssize_t n = ::recv(descriptor_, buffer, sizeof buffer, 0);
                if (n <= 0) return nullptr;
                in_.append(buffer, static_cast<std::size_t>(n));
            }
            const json out = json::parse(in_.substr(0, in_.find('\n')), nullptr, false);
            in_.erase(0, in_.find('\n') + 1);
            return out;
        }
        json said(const std::string& method, const json& params = json::object(), const json& id = 7) {
            if (descriptor_ < 0) return json::object();
            send(json{{"jsonrpc", "2.0"}, {"id", id}, {"method", method}, {"params", params}}.dump() + "\n");
            json message = next();
            while (message.is_object() && message.contains("method")) message = next();
            return message;
        }
        bool closed() {
            while (true) {
                const json message = next();
                if (message.is_null()) break;
            }
            char one = 0;
            return ::recv(descriptor_, &one, 1, MSG_DONTWAIT) == 0;
        }
        int descriptor() const { return descriptor_; }
        std::string why;

      private:
        int descriptor_ = -1;
        std::string in_;
    };
    Client client() const { return Client((folder.path() / ".vyard/live.socket").string()); }
    double time() const { return client().said("status").at("result").at("time_s").get<double>(); }

    Folder folder;
};

}  // namespace

TEST_CASE("the socket: only its owner may open it; hello, order, read, status") {
    Server s;
    struct stat found {};
    REQUIRE(::stat((s.folder.path() / ".vyard/live.socket").c_str(), &found) == 0);
    CHECK((found.st_mode & 0777) == 0600);
    REQUIRE(::stat((s.folder.path() / ".vyard").c_str(), &found) == 0);
    CHECK((found.st_mode & 0777) == 0700);
    auto c = s.client();
    const json hello = c.said("hello");
    CHECK(hello.at("jsonrpc") == "2.0");
    CHECK(hello.at("id") == 7);
    CHECK(hello.at("result").at("protocol") == live::kProtocolVersion);
    CHECK(hello.at("result").at("yard") == "Small");
    const json done = c.said("order", {{"line", "press start for 100 ms"}}, "a text");
    CHECK(done.at("id") == "a text");
    CHECK(done.at("result").at("obeyed") == true);
    CHECK(done.at("result").at("replies").at(0).at("text") == "press start for 100 ms");
    // One that takes time is answered when it is done.
    const json expected = c.said("order", {{"line", "expect run within 1 s"}});
    CHECK(expected.at("result").at("obeyed") == true);
    CHECK(contains(expected.at("result").at("replies").at(1).at("text"), "as expected"));
    const json failed = c.said("order", {{"line", "expect not run within 50 ms"}});
    CHECK(failed.at("result").at("obeyed") == false);
    CHECK(contains(failed.dump(), "failed: expect not run"));
    const json wrong = c.said("order", {{"line", "prss start"}});
    CHECK(wrong.at("result").at("obeyed") == false);
    CHECK(contains(wrong.dump(), "did you mean 'press'?"));
    const json values = c.said("read", {{"names", {"run", "a.speed"}}});
    CHECK(values.at("result").at("values").at("run").at("text") == "TRUE");
    CHECK(values.at("result").at("values").at("a.speed").at("number") == 0.5);
    c.said("order", {{"line", "force run = FALSE"}});
    c.said("order", {{"line", "fault see stuck on"}});
    const json status = c.said("status").at("result");
    CHECK(status.at("controllers").at(0).at("mode") == "run");
    CHECK(status.at("forces").at(0) == "run forced to FALSE");
    CHECK(status.at("faults").at(0) == "see.signal stuck on");
}

TEST_CASE("the socket: what is wrong is answered as the standard says, and the session goes on") {
    Server s;
    auto c = s.client();
    const std::vector<std::pair<std::string, int>> rows = {
        {"no json", -32700},
        {"{\"jsonrpc\":\"2.0\",\"id\":1}", -32600},
        {"{\"jsonrpc\":\"1.0\",\"id\":1,\"method\":\"hello\"}", -32600},
        {"[]", -32600},
        {"[{\"jsonrpc\":\"2.0\",\"id\":1,\"method\":\"hello\"}]", -32600},
        {"{\"jsonrpc\":\"2.0\",\"id\":{},\"method\":\"hello\"}", -32600},
        {"{\"jsonrpc\":\"2.0\",\"id\":1,\"method\":\"goodbye\"}", -32601},
        {"{\"jsonrpc\":\"2.0\",\"id\":1,\"method\":\"order\"}", -32602},
        {"{\"jsonrpc\":\"2.0\",\"id\":1,\"method\":\"order\",\"params\":[\"x\"]}", -32602},
        {"{\"jsonrpc\":\"2.0\",\"id\":1,\"method\":\"order\",\"params\":{\"line\":5}}", -32602},
        {"{\"jsonrpc\":\"2.0\",\"id\":1,\"method\":\"read\",\"params\":{\"names\":\"nothing_such\"}}", -32602},
        {"{\"jsonrpc\":\"2.0\",\"id\":1,\"method\":\"follow\",\"params\":{\"names\":\"nothing_such\"}}", -32602},
        {"\"\\ud800\"", -32700}};
    for (const auto& [text, code] : rows) {
        CAPTURE(text);
        c.send(text + "\n");
        const json answer = c.next();
        REQUIRE(answer.is_object());
        CHECK(answer.at("error").at("code") == code);
    }
    // A notification gets no answer, a blank line neither.
    c.send("\n{\"jsonrpc\":\"2.0\",\"method\":\"order\",\"params\":{\"line\":\"press start for 50 ms\"}}\n");
    CHECK(c.said("hello").contains("result"));
    // One that never ends its line is let go.
    auto endless = s.client();
    endless.send(std::string(live::kLongestRequest + 5000, 'x'));
    CHECK(endless.next().at("error").at("code") == -32600);
    CHECK(endless.closed());
    // Bytes at random.
    std::mt19937 random(9);
    for (int k = 0; k < 50; ++k) {
        auto noise = s.client();
        std::string bytes;
        for (int i = 0; i < 200; ++i) bytes += static_cast<char>(random() % 256U);
        noise.send(bytes + "\n");
    }
    CHECK(s.client().said("hello").contains("result"));
}

TEST_CASE("the socket: changes are followed, each client its own, through a reload and a rewind") {
    Server s;
    auto a = s.client();
    auto b = s.client();
    CHECK(a.said("follow", {{"names", "run"}, {"said", false}}).at("result").at("values").at("run") == "FALSE");
    CHECK(b.said("follow", {{"names", ""}, {"said", true}}).contains("result"));
    s.client().said("order", {{"line", "press start for 50 ms"}});
    const json changed = a.next();
    CHECK(changed.at("method") == "changed");
    CHECK(changed.at("params").at("name") == "run");
    CHECK(changed.at("params").at("text") == "TRUE");
    const json said = b.next();
    CHECK(said.at("method") == "said");
    CHECK(said.at("params").at("text") == "press start for 50 ms");
    std::string text = s.folder.read("line.st");
    s.folder.write("line.st", text.replace(text.find("PROGRAM main\n"), 13, "PROGRAM main\n    // changed\n"));
    json message = b.next();
    while (message.is_object() && !contains(message.dump(), "controller line: ")) message = b.next();
    CHECK(message.is_object());
    s.client().said("order", {{"line", "press stop for 50 ms"}});
    CHECK(a.next().at("params").at("text") == "FALSE");
    s.client().said("order", {{"line", "rewind 100 s"}});
    s.client().said("order", {{"line", "press start for 50 ms"}});
    s.client().said("order", {{"line", "go"}});
    CHECK(a.next().at("params").at("text") == "TRUE");
}

TEST_CASE("the socket: a flood, and a client that does not read, do not hold up the plant") {
    Server s;
    auto flood = s.client();
    auto silent = s.client();
    CHECK(silent.said("follow", {{"names", ""}, {"said", true}}).contains("result"));
    const double before = s.time();
    const auto begin = std::chrono::steady_clock::now();
    std::string many;
    for (int k = 0; k < 200; ++k)
        many += "{\"jsonrpc\":\"2.0\",\"id\":1,\"method\":\"order\",\"params\":{\"line\":\"show *\"}}\n";
    std::atomic<bool> stop = false;
    std::thread sender([&] {
        while (!stop) {
            if (::send(flood.descriptor(), many.data(), many.size(), MSG_NOSIGNAL | MSG_DONTWAIT) < 0)
                std::this_thread::sleep_for(std::chrono::milliseconds(1));
        }
    });
    std::this_thread::sleep_for(std::chrono::milliseconds(3000));
    const double after = s.time();
    stop = true;
    sender.join();
    const double wall = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
    CHECK(after - before > 0.9 * 3.0 - 0.3);
    CHECK(after - before < wall + 0.5);
    CHECK(s.client().said("hello").contains("result"));
}

TEST_CASE("the socket: many requests in one go are all answered, while time stands too") {
    Server s;
    s.client().said("order", {{"line", "pause"}});
    auto c = s.client();
    std::string many;
    for (int k = 0; k < 300; ++k) many += fmt::format("{{\"jsonrpc\":\"2.0\",\"id\":{},\"method\":\"hello\"}}\n", k);
    c.send(many);
    const auto begin = std::chrono::steady_clock::now();
    for (int k = 0; k < 300; ++k) {
        const json answer = c.next();
        REQUIRE(answer.is_object());
        CHECK(answer.at("id") == k);
    }
    CHECK(std::chrono::steady_clock::now() - begin < std::chrono::seconds(2));
}

TEST_CASE("the socket: many clients; those beyond the limit are let go, and there is room again") {
    Server s;
    {
        std::vector<std::unique_ptr<Server::Client>> all;
        std::size_t answered = 0;
        for (std::size_t k = 0; k < live::kMostClients + 4; ++k) {
            all.push_back(std::make_unique<Server::Client>((s.folder.path() / ".vyard/live.socket").string()));
            answered += all.back()->said("hello").is_object() ? 1U : 0U;
        }
        CHECK(answered >= live::kMostClients - 1);
        CHECK(answered <= live::kMostClients);
    }
    CHECK(Server::comes([&] { return s.client().said("hello").contains("result"); }));
}

TEST_CASE("vyard tell: lines, exit codes, JSON, what is followed; without a session it says so") {
    Server s;
    Folder& f = s.folder;
    CHECK(f.run("tell . \"watch run\" \"press start for 50 ms\"").exit == 0);
    const Result shown = f.run("tell . \"expect run within 1 s\" \"show run\"");
    CHECK(shown.exit == 0);
    CHECK(contains(shown.out, "as expected: expect run within 1 s\n"));
    CHECK(contains(shown.out, " s  run = TRUE\n"));
    CHECK(f.run("tell . \"expect not run within 20 ms\"").exit == 1);
    const Result wrong = f.run("tell . \"prss start\" \"force run = FALSE\"");
    CHECK(wrong.exit == 2);
    CHECK(contains(wrong.out, "did you mean 'press'?"));
    CHECK_FALSE(contains(f.run("tell . status").out, "forced"));  // it stops at the first that is wrong
    const Result as_json = f.run("tell --json . \"show run\"");
    CHECK(json::parse(as_json.out).at("result").at("obeyed") == true);
    f.write("follow.sh", fmt::format("'{0}' tell --follow . 'watch a.speed' >followed.txt &\nsleep 0.5\n'{0}' tell . "
                                     "'press stop for 50 ms' 'wait 300 ms'\n'{0}' tell . quit\nwait\n",
                                     VYARD_PROGRAM));
    CHECK(std::system(fmt::format("cd '{}' && timeout 20 sh follow.sh >/dev/null", f.path().string()).c_str()) == 0);
    const std::string followed = f.read("followed.txt");
    CHECK(contains(followed, "a.speed = 0.5 m/s\n"));
    CHECK(contains(followed, " s  a.speed = 0 m/s\n"));
    CHECK(Server::comes([&] { return !f.has(".vyard/live.socket"); }));
    const Result none = f.run("tell . status");
    CHECK(none.exit == 2);
    CHECK(contains(none.err, "error: no live session of this yard answers at "));
    CHECK(f.run("tell .").exit == 2);
    CHECK(f.run("tell").exit == 2);
    s.start("--pace 1");  // so that there is one to end
}

TEST_CASE("two sessions of one yard: the second says that it keeps nothing, and runs") {
    Server s;
    const Result second =
        s.folder.run("live . --state on --pace max", "press start for 50 ms\nwait 100 ms\nshow run\n");
    CHECK(second.exit == 0);
    CHECK(contains(second.err, "a live session has this yard already (process "));
    CHECK(contains(second.out, "run = TRUE\n"));
    CHECK(s.client().said("hello").contains("result"));
    CHECK(s.client().said("read", {{"names", "run"}}).at("result").at("values").at("run").at("text") == "FALSE");
    // Nor are its retained values written behind its back.
    s.folder.write("kept.csv", "controller,variable,type,value\n");
    const Result put = s.folder.run("tags . --put-retained kept.csv");
    CHECK(put.exit == 2);
    CHECK(contains(put.err, "a live session has this yard already (process "));
}

TEST_CASE("a socket that a killed session left is taken over") {
    Server s;
    ::kill(s.process(), SIGKILL);
    CHECK(Server::comes([&] { return !s.client().said("hello").contains("result"); }));
    s.start("--pace 1 --fresh");
    CHECK(s.client().said("hello").contains("result"));
}
