// Driving the built program as a user would: files in a temporary folder, arguments, standard input; what comes back.
#pragma once

#include <doctest/doctest.h>
#include <fmt/format.h>
#include <unistd.h>

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <sstream>
#include <string>
#include <vector>

namespace vyard::test {

namespace fs = std::filesystem;

struct Result {
    int exit = -1;
    std::string out, err;
};

inline std::string slurp(const fs::path& path) {
    std::ifstream in(path, std::ios::binary);
    std::ostringstream text;
    text << in.rdbuf();
    return text.str();
}

inline void spill(const fs::path& path, const std::string& text) {
    fs::create_directories(path.parent_path());
    std::ofstream(path, std::ios::binary) << text;
}

/// A folder of its own, gone at the end; vyard runs in it.
class Folder {
  public:
    Folder() {
        std::string name = (fs::temp_directory_path() / ("vyard-test-" + std::string(6, 'X'))).string();
        REQUIRE(mkdtemp(name.data()) != nullptr);
        path_ = name;
    }
    ~Folder() {
        std::error_code ignored;
        fs::remove_all(path_, ignored);
    }
    Folder(const Folder&) = delete;
    Folder& operator=(const Folder&) = delete;

    const fs::path& path() const { return path_; }
    fs::path operator/(const std::string& name) const { return path_ / name; }
    void write(const std::string& name, const std::string& text) { spill(path_ / name, text); }
    std::string read(const std::string& name) const { return slurp(path_ / name); }
    bool has(const std::string& name) const { return fs::exists(path_ / name); }

    /// Replaces the first `from` in a file; it must be there.
    void replace(const std::string& name, const std::string& from, const std::string& to) {
        std::string text = read(name);
        const std::size_t at = text.find(from);
        REQUIRE_MESSAGE(at != std::string::npos, from);
        write(name, text.replace(at, from.size(), to));
    }

    /// A copy of the glaze line under `glaze`.
    void copy_example() {
        fs::copy(fs::path(VYARD_SOURCE) / "examples/glaze-line", path_ / "glaze", fs::copy_options::recursive);
    }

    /// `arguments` as typed in a shell.
    Result run(const std::string& arguments, const std::string& input = {}) {
        const fs::path out = path_ / ".out", err = path_ / ".err", in = path_ / ".in";
        spill(in, input);
        const std::string command = fmt::format("cd '{}' && '{}' {} <'{}' >'{}' 2>'{}'", path_.string(), VYARD_PROGRAM,
                                                arguments, in.string(), out.string(), err.string());
        const int status = std::system(command.c_str());
        Result result{WIFEXITED(status) ? WEXITSTATUS(status) : -1, slurp(out), slurp(err)};
        for (const fs::path& p : {out, err, in}) fs::remove(p);
        return result;
    }

  private:
    fs::path path_;
};

inline bool contains(const std::string& text, const std::string& part) {
    return text.find(part) != std::string::npos;
}

/// A small yard that works: one belt, two buttons, an eye.
/// A file of the source tree.
inline std::vector<std::string> lines_of(const std::string& text) {
    std::vector<std::string> out;
    std::istringstream in(text);
    for (std::string line; std::getline(in, line);) out.push_back(line);
    return out;
}

inline std::string in_source(const std::string& name) {
    return slurp(fs::path(VYARD_SOURCE) / name);
}

inline void write_small_yard(Folder& f) {
    f.write("yard.toml",
            "[yard]\nname = \"Small\"\nplant = \"plant.toml\"\nmap = \"map.csv\"\ntime_step = \"5 ms\"\nprocedures = "
            "[\"*.proc\"]\n\n[controller.line]\nlogic = [\"*.st\"]\nscan = \"10 ms\"\n");
    f.write(
        "plant.toml",
        "[item.tile]\nsize = [\"200 mm\", \"200 mm\", \"20 mm\"]\n\n[belt.a]\nat = [\"0 m\", \"0 m\"]\nlength = \"3 "
        "m\"\nspeed = \"0.5 m/s\"\n\n"
        "[button.start]\n[button.stop]\ncontact = \"normally closed\"\n\n[photoeye.see]\non = \"a\"\nat = \"2 "
        "m\"\nheight = \"10 mm\"\n");
    f.write("map.csv",
            "tag,point,scaling,note\nstart_pb,start,,\nstop_pb,stop,,\nsee_tile,see.signal,,\nrun,a.run,,\n");
    f.write("line.st",
            "VAR_GLOBAL\n    start_pb AT %IX0.0 : BOOL;\n    stop_pb AT %IX0.1 : BOOL;\n    see_tile AT %IX0.2 : "
            "BOOL;\n    run AT %QX0.0 : BOOL;\nEND_VAR\n"
            "PROGRAM main\n    run := (run OR start_pb) AND stop_pb AND NOT see_tile;\nEND_PROGRAM\n");
    f.write("go.proc",
            "procedure \"Go\"\nstep \"Runs to the eye\"\n    place tile on a at 0.5 m\n    press start for 100 ms\n    "
            "expect run within 50 ms\n    wait until see_tile within 5 s\n    expect not run within 20 ms\n");
}

}  // namespace vyard::test
