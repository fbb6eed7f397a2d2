#include <fmt/format.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "cli/command.hpp"
#include "live/desk.hpp"
#include "live/socket_front.hpp"

namespace vyard::cli {

namespace po = boost::program_options;
using nlohmann::json;

namespace {

/// The other end of a session's socket: requests out, messages in, one a line.
class Session {
  public:
    explicit Session(int descriptor) : descriptor_(descriptor) {}
    ~Session() { ::close(descriptor_); }
    Session(const Session&) = delete;
    Session& operator=(const Session&) = delete;

    bool send(const json& message) {
        const std::string line = message.dump(-1, ' ', false, json::error_handler_t::replace) + "\n";
        std::size_t done = 0;
        while (done < line.size()) {
            const ssize_t n = ::send(descriptor_, line.data() + done, line.size() - done, MSG_NOSIGNAL);
            if (n < 0 && errno == EINTR) continue;
            if (n <= 0) return false;
            done += static_cast<std::size_t>(n);
        }
        return true;
    }
    /// Waits for the next message; null at the end of the session.
    std::optional<json> next() {
        while (true) {
            const std::size_t end = in_.find('\n');
            if (end != std::string::npos) {
                const json message = json::parse(in_.substr(0, end), nullptr, false);
                in_.erase(0, end + 1);
                if (message.is_object()) return message;
                continue;
            }
            char buffer[4096];
            const ssize_t n = ::recv(descriptor_, buffer, sizeof buffer, 0);
            if (n < 0 && errno == EINTR) continue;
            if (n <= 0) return std::nullopt;
            in_.append(buffer, static_cast<std::size_t>(n));
        }
    }

  private:
    int descriptor_;
    std::string in_;
};

void print(const std::string& text) {
    fmt::print("{}\n", text);
    std::fflush(stdout);
}

std::string said_text(const json& reply) {
    const std::string text = reply.value("text", "");
    if (!reply.contains("time_s")) return text;
    return fmt::format("{:>11}  {}", base::clock_text(base::from_seconds(reply.at("time_s").get<double>())), text);
}

/// A message that came by itself.
void print_message(const json& message, bool as_json) {
    if (as_json) return print(message.dump());
    const json params = message.value("params", json::object());
    if (message.value("method", "") == "changed") {
        print(fmt::format("{:>11}  {} = {}", base::clock_text(base::from_seconds(params.value("time_s", 0.0))),
                          params.value("name", ""), params.value("text", "")));
    } else {
        print(said_text(params));
    }
}

/// What an answer says, and the exit code that it makes.
int print_answer(const json& message, bool as_json) {
    if (as_json) print(message.dump());
    if (message.contains("error")) {
        if (!as_json) fmt::print(stderr, "error: {}\n", message.at("error").value("message", ""));
        return kWrongCall;
    }
    int exit = kWell;
    const json result = message.value("result", json::object());
    for (const json& reply : result.value("replies", json::array())) {
        const std::string kind = reply.value("kind", "");
        if (kind == "wrong") exit = kWrongCall;
        if (kind == "event" && exit == kWell) exit = kFailed;
        if (!as_json) print(said_text(reply));
    }
    if (as_json || !result.contains("values")) return exit;
    for (const auto& [name, value] : result.at("values").items())
        print(fmt::format("{} = {}", name, value.is_string() ? value.get<std::string>() : value.value("text", "")));
    return exit;
}

json request(int id, const std::string& method, json params) {
    return {{"jsonrpc", "2.0"}, {"id", id}, {"method", method}, {"params", std::move(params)}};
}

int tell(Session& session, const std::vector<std::string>& lines, bool follow, bool as_json) {
    int exit = kWell;
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const auto [word, rest] = live::first_word(lines[i]);
        const int id = static_cast<int>(i) + 1;
        const bool watches = follow && word == "watch";
        if (!session.send(watches ? request(id, "follow", {{"names", rest}, {"said", false}})
                                  : request(id, "order", {{"line", lines[i]}})))
            return wrong_call("the session ended"), kOurFault;
        while (true) {
            const auto message = session.next();
            if (!message)
                return word == "quit" ? static_cast<int>(kWell) : (wrong_call("the session ended"), kOurFault);
            if (message->contains("id")) {
                exit = std::max(exit, print_answer(*message, as_json));
                break;
            }
            print_message(*message, as_json);
        }
        if (exit == kWrongCall) return exit;
    }
    if (!follow) return exit;
    // Without anything to watch, all that is said.
    const bool any =
        std::any_of(lines.begin(), lines.end(), [](const auto& l) { return live::first_word(l).first == "watch"; });
    if (!any && !session.send(request(0, "follow", {{"names", ""}, {"said", true}}))) return kOurFault;
    while (const auto message = session.next()) {
        if (message->contains("method")) print_message(*message, as_json);
    }
    return exit;
}

}  // namespace

CommandLine tell_line() {
    CommandLine line(
        "tell [YARD] LINE... [options]",
        "Speaks to the live session of a yard from another terminal: each LINE is obeyed as if it were "
        "typed there, and\nits answer printed, once it is done. With --follow, goes on printing what changes "
        "(of `watch NAMES`) or, without\none, all that is said. The session must keep its state (as it does at "
        "a terminal, or with --state on).",
        "vyard live examples/seed-bags --state on --pace 20 --for 100s </dev/null & sleep 1; vyard tell "
        "examples/seed-bags status");
    line.options().add_options()("follow", "go on, until the session ends or Ctrl-C")(
        "json", "print the messages of the protocol as they come, one a line");
    line.takes_words(1000);
    return line;
}

int tell_command(const CommandLine& line) {
    std::vector<std::string> lines = line.words();
    const bool named = !lines.empty() && names_yard(lines[0]);
    std::string folder = named ? lines[0] : files::find_yard(".");
    if (named) lines.erase(lines.begin());
    if (folder.empty())
        return wrong_call("there is no yard.toml in this folder or above it",
                          "name a yard: vyard tell examples/glaze-line status");
    if (!files::is_folder(folder)) folder = std::filesystem::path(folder).parent_path().string();
    if (lines.empty() && !line.has("follow"))
        return wrong_call("there is nothing to tell", "vyard tell \"force run = TRUE\"");
    std::string why;
    const std::string path = (std::filesystem::path(folder.empty() ? "." : folder) / ".vyard" / "live.socket").string();
    const int descriptor = live::connect_to(path, why);
    if (descriptor < 0)
        return wrong_call(fmt::format("no live session of this yard answers at {}: {}", path, why),
                          "vyard live at a terminal, or with --state on");
    Session session(descriptor);
    return tell(session, lines, line.has("follow"), line.has("json"));
}

}  // namespace vyard::cli
