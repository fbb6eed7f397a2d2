// The screen of a live run: its panels as grids of characters, and the built program in a terminal (tmux).
#include <chrono>
#include <map>
#include <random>
#include <thread>

#include "files/yard_file.hpp"
#include "live/screen/screen_front.hpp"
#include "program/support.hpp"

// Last: they bring macros of common names.
#include <pty.h>
#include <sys/wait.h>

#include <csignal>

using namespace vyard;
using namespace vyard::test;
using base::Nanoseconds;

namespace {

class StillClock final : public live::Clock {
  public:
    Nanoseconds now() override { return Nanoseconds(1); }
};

/// A screen without a terminal.
struct Screen {
    Folder folder;
    files::Yard yard;
    StillClock clock;
    std::optional<live::Sitting> sitting;
    std::optional<live::Screen> screen;
    Nanoseconds wall{};
    int width = 120, height = 40;

    explicit Screen(bool ascii = false) {
        write_small_yard(folder);
        base::Diagnostics diagnostics;
        yard = files::load_yard(folder.path().string(), diagnostics);
        REQUIRE(yard.model != nullptr);
        live::SittingOptions options;
        options.pace = 1.0;
        options.folder = folder.path().string();
        options.attended = true;
        sitting.emplace(session::Session(yard.model), clock, options);
        sitting->begin();
        screen.emplace(1, folder.path().string(), ascii);
        text();
    }
    void key(live::Key::Kind kind, int number = 0) {
        screen->key({kind, 0, number, 0, 0}, *sitting, width, height);
        deliver();
    }
    void function(int number) { key(live::Key::Kind::Function, number); }
    void type(const std::string& text) {
        for (const char c : text)
            screen->key({live::Key::Kind::Letter, static_cast<char32_t>(c), 0, 0, 0}, *sitting, width, height);
        deliver();
    }
    void order(const std::string& line) {
        type(line);
        key(live::Key::Kind::Enter);
    }
    void steps(int count) {
        for (int i = 0; i < count; ++i) sitting->tick();
        deliver();
    }
    void deliver() {
        for (const live::Reply& r : sitting->take_replies()) screen->add(r);
    }
    std::string text() {
        wall += Nanoseconds(100'000'000);
        const live::Surface s = screen->draw(*sitting, width, height, wall);
        std::string out;
        for (int y = 0; y < s.height(); ++y) out += s.line(y) + "\n";
        return out;
    }
    bool shows(const std::string& part) { return contains(text(), part); }
};

}  // namespace

TEST_CASE("screen: panels, an order typed, its effect, and what the status line says") {
    Screen s;
    for (const char* part : {"─ Small ─", "─ Watch ─", "─ Operator ─", "─ Messages ─", "─ Logic", "> ", " line RUN ",
                             "forces 0", "faults 0", "start  not pressed"})
        CHECK_MESSAGE(s.shows(part), part);
    s.order("watch run, a.speed");
    s.order("place tile on a at 0.5 m");
    s.order("press start for 100 ms");
    s.steps(4);
    const std::string text = s.text();
    CHECK(contains(text, "run     TRUE"));
    CHECK(contains(text, "a.speed 0.5 m/s"));
    CHECK(contains(text, "  press start for 100 ms"));
    CHECK(contains(text, "start  pressed"));
    CHECK(contains(text, "▓"));
    s.order("force run = FALSE");
    s.order("fault see stuck on");
    s.steps(2);
    CHECK_MESSAGE(s.shows("Frun     FALSE (forced)"), s.text());
    CHECK(s.shows("forces 1  faults 1"));
    CHECK(s.shows("see FAULT"));
    s.order("prss start");
    CHECK(s.shows("did you mean 'press'?"));
}

TEST_CASE("screen: the operator's panel presses, holds and turns; what it does is an order like any other") {
    Screen s;
    s.function(5);
    s.key(live::Key::Kind::Enter);
    s.steps(4);
    CHECK(s.shows("press start for 200 ms"));
    CHECK(s.shows("start  pressed"));
    s.steps(40);
    CHECK(s.shows("start  not pressed"));
    s.key(live::Key::Kind::Down);
    s.type(" ");  // holds stop
    s.steps(60);
    CHECK(s.shows("stop   pressed"));
    s.type(" ");
    s.steps(2);
    CHECK(s.shows("stop   not pressed"));
    CHECK(s.shows("release stop"));
    // A letter that means nothing here is the beginning of an order.
    s.type("x");
    CHECK(s.shows("> x"));
}

TEST_CASE("screen: a list of tags is opened by name, and written with one key, a row or all of it") {
    Screen s;
    s.folder.write("lists/hand.csv", "tag,display,value,note\nrun,,TRUE,\nsee_tile,,FALSE,\nstop_pb,,,\n");
    s.order("list hand");
    CHECK(s.shows("run      FALSE w:TRUE"));
    CHECK(s.shows("see_tile FALSE w:FALSE"));
    s.function(3);
    s.type("w");
    CHECK(s.shows("write run = TRUE"));
    CHECK_FALSE(s.shows("write see_tile"));
    s.key(live::Key::Kind::Down);
    s.type("w");
    CHECK(s.shows("write see_tile = FALSE"));
    s.key(live::Key::Kind::Down);
    s.type("w");
    CHECK(s.shows("list hand has no value for 'stop_pb'"));
    s.type("W");
    s.steps(2);
    CHECK_FALSE(s.shows("> w"));
}

TEST_CASE("screen: a mouse presses what it is on") {
    Screen s;
    s.text();
    int row = -1;
    const live::Surface surface = s.screen->draw(*s.sitting, s.width, s.height, s.wall);
    for (int y = 0; y < surface.height(); ++y) {
        if (contains(surface.line(y), "start  not pressed")) row = y;
    }
    REQUIRE(row > 0);
    s.screen->key({live::Key::Kind::Mouse, 0, 0, s.width - 20, row}, *s.sitting, s.width, s.height);
    s.deliver();
    s.steps(2);
    CHECK(s.shows("start  pressed"));
}

TEST_CASE("screen: panels are hidden, shown alone, sized, and remembered") {
    Screen s;
    s.function(6);
    CHECK(s.shows("─ Messages"));
    s.function(6);
    CHECK_FALSE(s.shows("─ Messages"));
    s.function(3);
    s.type("z");
    CHECK(s.shows("─ Watch"));
    CHECK_FALSE(s.shows("─ Operator"));
    s.type("z");
    CHECK(s.shows("─ Operator"));
    s.key(live::Key::Kind::Escape);
    s.order("panel operator off");
    CHECK_FALSE(s.shows("─ Operator"));
    s.order("panel operator");
    CHECK(s.shows("─ Operator"));
    s.order("panel oprator");
    s.function(6);
    CHECK(s.shows("did you mean 'operator'?"));
    s.function(6);
    CHECK_FALSE(s.shows("─ Messages"));
    const auto column = [&] {
        const std::string first = s.text().substr(0, 600);
        return first.find("Watch");
    };
    s.function(2);
    const std::size_t before = column();
    s.type("+");
    CHECK(column() > before);
    s.screen->remember();
    live::Screen again(1, s.folder.path().string(), false);
    s.screen.emplace(std::move(again));
    CHECK_FALSE(s.shows("─ Messages"));
    s.key(live::Key::Kind::Up);  // lines come back too
    CHECK(s.folder.has(".vyard/screen"));
}

TEST_CASE("screen: completion of verbs, devices with that hand control, tags, faults; a common beginning first") {
    const std::vector<std::array<const char*, 2>> rows = {{"pre", "press "},
                                                          {"press sta", "press start "},
                                                          {"watch see_", "watch see_tile "},
                                                          {"force ru", "force run "},
                                                          {"fault see st", "fault see stuck "},
                                                          {"heal al", "heal all "},
                                                          {"place ti", "place tile "},
                                                          {"take from ", "take from a "},
                                                          {"procedure G", "procedure Go "},
                                                          {"rewind u", "rewind until "},
                                                          {"watch st", "watch st"},
                                                          {"xyz", "xyz"}};
    for (const auto& [typed, wanted] : rows) {
        Screen s;
        base::Diagnostics diagnostics;
        live::SittingOptions options;
        options.folder = s.folder.path().string();
        options.version.book = procedure::read_book(*s.yard.model, s.yard.procedures, diagnostics);
        s.sitting.emplace(session::Session(s.yard.model), s.clock, options);
        s.type(typed);
        s.key(live::Key::Kind::Tab);
        CAPTURE(typed);
        const std::string text = s.text();
        const std::size_t at = text.rfind("> ");
        REQUIRE(at != std::string::npos);
        std::string line = text.substr(at + 2, text.find('\n', at) - at - 2);
        std::string expected = wanted;
        while (expected.ends_with(' ')) expected.pop_back();
        CHECK(line == expected);
        if (std::string(typed) == "watch st")
            CHECK_MESSAGE(contains(text, "start  start.contact  start.lit  start.pressed  start_pb"), text);
    }
}

TEST_CASE("screen: the line is edited as lines are, and what was written comes back") {
    Screen s;
    const auto prompt = [&] {
        const std::string text = s.text();
        const std::size_t at = text.rfind("> ");
        return text.substr(at + 2, text.find('\n', at) - at - 2);
    };
    const auto control = [&](char c) {
        s.screen->key({live::Key::Kind::Control, static_cast<char32_t>(c), 0, 0, 0}, *s.sitting, s.width, s.height);
    };
    s.type("watch rum");
    s.key(live::Key::Kind::Backspace);
    s.type("n");
    CHECK(prompt() == "watch run");
    s.key(live::Key::Kind::Home);
    s.type("un");
    CHECK(prompt() == "unwatch run");
    control('e');
    control('w');
    CHECK(prompt() == "unwatch");
    control('u');
    s.order("show run");
    s.order("show see");
    s.key(live::Key::Kind::Up);
    s.key(live::Key::Kind::Up);
    CHECK(prompt() == "show run");
    s.key(live::Key::Kind::Down);
    CHECK(prompt() == "show see");
    s.type("_tile");
    control('a');
    s.key(live::Key::Kind::Delete);
    CHECK(prompt() == "how see_tile");
    s.key(live::Key::Kind::Escape);
    CHECK(contains(prompt(), "an order, or Tab to the panels"));
}

TEST_CASE("screen: letters beyond ASCII, and none at all") {
    Screen s;
    for (const char32_t c : U"press é→")
        if (c != 0) s.screen->key({live::Key::Kind::Letter, c, 0, 0, 0}, *s.sitting, s.width, s.height);
    CHECK(s.shows("> press é→"));
    s.key(live::Key::Kind::Enter);
    CHECK(s.shows("error: "));
    for (const char32_t c : live::letters_of("─│┏█▁▇■○▶×é\xff")) {
        const char plain = live::ascii_of(c);
        CHECK(plain >= ' ');
        CHECK(plain < 127);
    }
}

TEST_CASE("screen: any size, any panels, any keys: nothing is drawn outside, nothing falls over") {
    std::mt19937 random(5);
    Screen s;
    s.order("watch *");
    const std::vector<live::Key::Kind> kinds = {
        live::Key::Kind::Tab,       live::Key::Kind::BackTab, live::Key::Kind::Enter,  live::Key::Kind::Escape,
        live::Key::Kind::Left,      live::Key::Kind::Right,   live::Key::Kind::Up,     live::Key::Kind::Down,
        live::Key::Kind::Home,      live::Key::Kind::End,     live::Key::Kind::PageUp, live::Key::Kind::PageDown,
        live::Key::Kind::Backspace, live::Key::Kind::Delete};
    for (int k = 0; k < 3000; ++k) {
        if (k % 7 == 0) {
            s.width = 1 + static_cast<int>(random() % 160);
            s.height = 1 + static_cast<int>(random() % 60);
        }
        const auto what = random() % 10;
        if (what < 4) {
            s.screen->key({kinds[random() % kinds.size()], 0, 0, 0, 0}, *s.sitting, s.width, s.height);
        } else if (what < 6) {
            const int number = 1 + static_cast<int>(random() % 9);
            s.screen->key({live::Key::Kind::Function, 0, number, 0, 0}, *s.sitting, s.width, s.height);
        } else if (what < 7) {
            const auto kind = random() % 2 == 0 ? live::Key::Kind::Mouse : live::Key::Kind::WheelUp;
            s.screen->key({kind, 0, 0, static_cast<int>(random() % 160), static_cast<int>(random() % 60)}, *s.sitting,
                          s.width, s.height);
        } else {
            s.screen->key({live::Key::Kind::Letter, U' ' + static_cast<char32_t>(random() % 95U), 0, 0, 0}, *s.sitting,
                          s.width, s.height);
        }
        if (s.sitting->due()) s.sitting->tick();
        s.deliver();
        const live::Surface surface = s.screen->draw(*s.sitting, s.width, s.height, s.wall += Nanoseconds(50'000'000));
        REQUIRE(surface.width() == s.width);
        REQUIRE(surface.height() == s.height);
        if (s.width >= 12 && s.height >= 2) REQUIRE(contains(surface.line(s.height - 1), " line "));
    }
}

TEST_CASE("the schematic shows every example: devices, items, levels, names; faults stand out") {
    for (const char* name :
         {"glaze-line", "seed-bags", "tile-stack", "book-press", "canal-lock", "herbarium", "dye-bath", "first-yard"}) {
        CAPTURE(name);
        base::Diagnostics diagnostics;
        const files::Yard yard = files::load_yard((fs::path(VYARD_SOURCE) / "examples" / name).string(), diagnostics);
        REQUIRE(yard.model != nullptr);
        session::Session session(yard.model);
        for (int k = 0; k < 400; ++k) session.step();
        const figures::Scene scene = figures::scene_of(*yard.model);
        const figures::Frame frame = figures::frame_of(session);
        REQUIRE(scene.devices.size() == frame.devices.size());
        for (const auto& [w, h] : {std::pair{60, 20}, std::pair{120, 40}, std::pair{20, 5}, std::pair{3, 2}}) {
            live::Surface s(w + 4, h + 4);
            live::draw_schematic(s, {2, 2, w, h}, scene, frame);
            std::string text;
            for (int y = 0; y < s.height(); ++y) {
                const std::string line = s.line(y);
                text += line + "\n";
                // Around its area nothing is drawn.
                if (y < 2 || y >= h + 2) CHECK(line.empty());
                for (int x = 0; x < s.width(); ++x) {
                    if (x < 2 || x >= w + 2) CHECK(s.at(x, y).letter == U' ');
                }
            }
            if (w < 100) continue;
            int named = 0, in_plan = 0;
            for (const auto& d : scene.devices) {
                in_plan += d.in_plan ? 1 : 0;
                named += d.in_plan && contains(text, d.name) ? 1 : 0;
            }
            CHECK_MESSAGE(named * 3 >= in_plan, fmt::format("{} of {} named\n{}", named, in_plan, text));
        }
    }
}

// --- in a terminal ---

namespace {

/// The built program in a terminal of its own, driven by keys.
class Tmux {
  public:
    Tmux(const fs::path& folder, const std::string& command, int columns = 110, int rows = 36,
         const std::string& environment = "LC_ALL=C.UTF-8")
        : name_(fmt::format("vyard-{}-{}", getpid(), next_++)) {
        const std::string line = fmt::format("cd '{}'; env {} '{}' {}; echo EXIT=\\$?; sleep 1000", folder.string(),
                                             environment, VYARD_PROGRAM, command);
        REQUIRE(tmux(fmt::format("-f /dev/null new-session -d -x {} -y {} \"{}\"", columns, rows, line)) == 0);
        tmux("set -g status off");
    }
    ~Tmux() { tmux("kill-server"); }
    Tmux(const Tmux&) = delete;
    Tmux& operator=(const Tmux&) = delete;

    void keys(const std::string& arguments) { CHECK(tmux("send-keys " + arguments) == 0); }
    void line(const std::string& text) {
        CHECK(tmux(fmt::format("send-keys -l '{}'", text)) == 0);
        keys("Enter");
    }
    void resize(int columns, int rows) { CHECK(tmux(fmt::format("resize-window -x {} -y {}", columns, rows)) == 0); }
    void end() { tmux("kill-server"); }
    std::string text() {
        FILE* in = popen(fmt::format("tmux -L {} capture-pane -p 2>/dev/null", name_).c_str(), "r");
        std::string out;
        char buffer[4096];
        for (std::size_t got = 0; (got = fread(buffer, 1, sizeof buffer, in)) > 0;) out.append(buffer, got);
        pclose(in);
        return out;
    }
    /// Whether the screen shows it within some seconds.
    bool shows(const std::string& part, double seconds = 8.0) {
        for (int k = 0; k < static_cast<int>(seconds * 20); ++k) {
            last_ = text();
            if (contains(last_, part)) return true;
            std::this_thread::sleep_for(std::chrono::milliseconds(50));
        }
        return false;
    }
    const std::string& last() const { return last_; }

  private:
    int tmux(const std::string& arguments) const {
        return std::system(fmt::format("tmux -L {} {} 2>/dev/null", name_, arguments).c_str());
    }
    static inline int next_ = 0;
    std::string name_, last_;
};

pid_t process_of(const Folder& f) {
    std::istringstream in(f.read(".vyard/lock"));
    pid_t pid = 0;
    in >> pid;
    REQUIRE(pid > 0);
    return pid;
}

bool comes(const std::function<bool()>& what, double seconds = 8.0) {
    for (int k = 0; k < static_cast<int>(seconds * 50); ++k) {
        if (what()) return true;
        std::this_thread::sleep_for(std::chrono::milliseconds(20));
    }
    return false;
}

}  // namespace

TEST_CASE("a person at a terminal: orders, keys, sizes, and an end with forces on that is asked for twice") {
    Folder f;
    write_small_yard(f);
    Tmux t(f.path(), "live .");
    REQUIRE_MESSAGE(t.shows("line RUN"), t.last());
    t.line("watch run, starts*");
    CHECK(t.shows("no name fits"));
    t.line("watch run");
    t.keys("F5");
    t.keys("Enter");
    CHECK_MESSAGE(t.shows("run TRUE"), t.last());
    t.keys("Escape");
    t.line("force run = FALSE");
    CHECK(t.shows("forces 1"));
    t.keys("F7");
    CHECK(t.shows("STANDS"));
    t.keys("F8");
    CHECK(t.shows("scanned"));
    t.keys("'?'");
    CHECK(t.shows("Tab completes"));
    t.keys("q");
    t.resize(20, 5);
    CHECK(t.shows("too small"));
    t.resize(80, 24);
    CHECK(t.shows("─ Operator"));
    t.line("quit");
    CHECK(t.shows("forces are on"));
    t.line("quit anyway");
    CHECK_MESSAGE(t.shows("EXIT=0"), t.last());
    CHECK(contains(t.text(), "force left: run forced to FALSE"));
    CHECK(f.has(".vyard/journal.ended"));
    CHECK_FALSE(f.has(".vyard/live.socket"));
}

TEST_CASE("terminals without colours or UTF-8 show the same in plain characters; one without a screen says so") {
    Folder f;
    write_small_yard(f);
    {
        Tmux t(f.path(), "live .", 90, 30, "LC_ALL=C NO_COLOR=1 TERM=vt100");
        CHECK_MESSAGE(t.shows("- Operator -"), t.last());
        for (const char c : t.text()) CHECK(static_cast<unsigned char>(c) < 128);
        t.line("quit");
        CHECK(t.shows("EXIT=0"));
    }
    Tmux t(f.path(), "live .", 90, 30, "LC_ALL=C TERM=nothing-like-it");
    CHECK_MESSAGE(t.shows("EXIT=2"), t.last());
    CHECK(contains(t.text(), "cannot show a screen"));
}

TEST_CASE("killed in the middle: the next start goes on with it, or not, as it is told") {
    Folder f;
    write_small_yard(f);
    {
        Tmux t(f.path(), "live .");
        REQUIRE(t.shows("line RUN"));
        t.line("watch run");
        t.line("press start for 100 ms");
        CHECK(t.shows("run TRUE"));
        t.line("force see_tile = FALSE");
        CHECK(t.shows("forces 1"));
        std::this_thread::sleep_for(std::chrono::milliseconds(1200));
        ::kill(process_of(f), SIGKILL);
        CHECK_MESSAGE(t.shows("Killed"), t.last());
    }
    {
        Tmux t(f.path(), "live .");
        CHECK(t.shows("was cut off at"));
        t.keys("y Enter");
        CHECK_MESSAGE(t.shows("gone on with at"), t.last());
        CHECK(t.shows("forces 1"));
        CHECK(t.shows("run TRUE"));
        ::kill(process_of(f), SIGKILL);
        CHECK_MESSAGE(t.shows("Killed"), t.last());
    }
    Tmux t(f.path(), "live .");
    CHECK(t.shows("was cut off at"));
    t.keys("n Enter");
    CHECK(t.shows("forces 0"));
    CHECK(f.has(".vyard/journal.before"));
    t.end();  // the terminal goes away: SIGHUP
    CHECK(comes([&] { return f.has(".vyard/journal.ended"); }));
}

TEST_CASE("signals end a session as quit does, at a terminal and in a pipe") {
    for (const int signal : {SIGTERM, SIGHUP, SIGINT}) {
        CAPTURE(signal);
        Folder f;
        write_small_yard(f);
        // Its input is open and silent.
        const std::string command = fmt::format(
            "cd '{}' && mkfifo in && (setsid sh -c \"exec 9<>in; '{}' live . --state on <in >out.txt 2>&1; "
            "echo \\$? >exit.txt\" &)",
            f.path().string(), VYARD_PROGRAM);
        REQUIRE(std::system(command.c_str()) == 0);
        REQUIRE(comes([&] { return f.has(".vyard/live.socket"); }));
        CHECK(f.run("tell . \"record on\" \"force run = TRUE\"").exit == 0);
        ::kill(process_of(f), signal);
        CHECK(comes([&] { return f.has("exit.txt") && !f.read("exit.txt").empty(); }));
        CHECK(f.read("exit.txt") == fmt::format("{}\n", 128 + signal));
        const std::string out = f.read("out.txt");
        CHECK(contains(out, "ended by "));
        CHECK(contains(out, "force left: run forced to TRUE\n"));
        CHECK(contains(out, "wrote "));
        CHECK(f.has("traces/live-1/trace.vcd"));
        CHECK(f.has(".vyard/journal.ended"));
    }
}

TEST_CASE("a terminal that takes nothing does not hold up the plant") {
    Folder f;
    write_small_yard(f);
    int master = -1;
    const pid_t child = forkpty(&master, nullptr, nullptr, nullptr);
    REQUIRE(child >= 0);
    if (child == 0) {
        ::chdir(f.path().c_str());
        ::setenv("TERM", "xterm", 1);
        ::setenv("LC_ALL", "C.UTF-8", 1);
        ::execl(VYARD_PROGRAM, VYARD_PROGRAM, "live", ".", "--watch", "run,a.speed", static_cast<char*>(nullptr));
        ::_exit(127);
    }
    REQUIRE(comes([&] { return f.has(".vyard/live.socket"); }));
    // Nobody reads what it writes; something new is to be drawn all the time.
    const auto time = [&] {
        const Result r = f.run("tell . status");
        CHECK(r.exit == 0);
        return std::strtod(r.out.c_str(), nullptr);
    };
    f.run("tell . \"press start for 100 ms\"");
    const double before = time();
    std::this_thread::sleep_for(std::chrono::milliseconds(2500));
    const double after = time();
    CHECK(after - before > 2.0);
    CHECK(f.run("tell . quit").exit == 0);
    int status = 0;
    CHECK(comes([&] { return ::waitpid(child, &status, WNOHANG) == child; }));
    CHECK(WIFEXITED(status));
    ::close(master);
}
