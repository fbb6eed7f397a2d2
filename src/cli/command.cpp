#include "cli/command.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <set>
#include <sstream>

#include "files/link_file.hpp"
#include "files/text_file.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

CommandLine::CommandLine(std::string usage, std::string summary, std::string example)
    : usage_(std::move(usage)), summary_(std::move(summary)), example_(std::move(example)) {
    options_.add_options()("help,h", "show this")("quiet,q", "say only what was asked for, and what went wrong")(
        "color", po::value<std::string>()->default_value("auto")->value_name("WHEN"),
        "colours: auto (at a terminal, unless NO_COLOR is set), always or never");
}

void CommandLine::add_yard_options() {
    options_.add_options()("use", po::value<std::vector<std::string>>()->composing()->value_name("FILE=OTHER"),
                           "read OTHER in place of the yard's FILE, such as logic/line.st=variants/slow.st")(
        "outside",
        "files outside of the yard's folder and of the current one, which the yard or --use names, are meant")(
        "strict", "warnings are errors: exit code 2")(
        "scan", po::value<std::string>()->value_name("TIME"),
        "the scan of a lone logic file, which is a yard without a plant: vyard run blend.st --scan 10ms");
}

void CommandLine::add_run_options() {
    options_.add_options()(
        "set", po::value<std::vector<std::string>>()->composing()->value_name("NAME=VALUE"),
        "for this run: a key of a device (glaze.level=0.2 m), the initial value of a tag, a CONSTANT, or "
        "an end of a scaling (map.level_raw.tag_high=20000); may be repeated")(
        "seed", po::value<std::string>()->value_name("NUMBER"), "of all that is random, in place of the yard's")(
        "stimulus", po::value<std::string>()->value_name("FILE.csv"),
        "a table of time, tag, value, expect: each value is written once, before the first scan at or after its time; "
        "what is expected is looked at after that scan")(
        "here", "controllers that the yard says are executed elsewhere are executed here, with the logic of stand_in");
}

void CommandLine::add_link_options() {
    options_.add_options()("link",
                           po::value<std::vector<std::string>>()->composing()->value_name("[NAME=][ROLE@]HOST:PORT"),
                           "the link of a controller, other than yard.toml says: roles are server, client and screen; "
                           "may be repeated");
    if (takes("here")) apart({"link"}, {"here"});
}

namespace {

std::vector<std::string> option_names(const po::options_description& options) {
    std::vector<std::string> names;
    for (const auto& o : options.options()) names.push_back("--" + o->long_name());
    return names;
}

}  // namespace

std::optional<int> CommandLine::parse(const std::vector<std::string>& arguments) {
    po::options_description all;
    all.add(options_).add_options()("words", po::value<std::vector<std::string>>());
    po::positional_options_description positional;
    positional.add("words", -1);
    try {
        po::store(po::command_line_parser(arguments).options(all).positional(positional).run(), values_);
        po::notify(values_);
    } catch (const po::unknown_option& failure) {
        return wrong_call(fmt::format("no option is named '{}'", failure.get_option_name()),
                          base::name_hint(failure.get_option_name(), option_names(options_)));
    } catch (const po::error& failure) {
        return wrong_call(failure.what());
    }
    if (has("help")) {
        fmt::print("{}", help());
        return kWell;
    }
    if (const std::string when = text("color"); when != "auto" && when != "always" && when != "never")
        return wrong_call(fmt::format("--color: '{}' is none of auto, always and never", when));
    // What is a folder cannot be standard output.
    const auto* out = options_.find_nothrow("out", false);
    if (out != nullptr && out->semantic()->name().find("FOLDER") != std::string::npos && text("out") == "-")
        return wrong_call("--out names a folder here; '-' is standard output in place of a file");
    if (has("words")) words_ = values_["words"].as<std::vector<std::string>>();
    if (const std::string wrong = misfit(); !wrong.empty()) return wrong_call(wrong, "usage: vyard " + usage_);
    if (words_.size() > most_words_)
        return wrong_call(fmt::format("unexpected argument '{}'", words_[most_words_]), "usage: vyard " + usage_);
    return std::nullopt;
}

void CommandLine::apart(const Names& names, const Names& others) {
    for (const std::string& name : names) {
        for (const std::string& other : others) one_of({name, other});
    }
}

void CommandLine::only_for(const Names& names, const Names& words) {
    for (const std::string& name : names) for_words_.emplace_back(name, words);
}

bool CommandLine::is_for_word(const std::string& name) const {
    return std::all_of(for_words_.begin(), for_words_.end(), [&](const auto& one) {
        return one.first != name || std::find(one.second.begin(), one.second.end(), word(0)) != one.second.end();
    });
}

std::string CommandLine::misfit() const {
    for (const Names& names : exclusive_) {
        Names given;
        std::copy_if(names.begin(), names.end(), std::back_inserter(given),
                     [&](const std::string& n) { return has(n.c_str()); });
        if (given.size() > 1) return fmt::format("--{} and --{} exclude each other", given[0], given[1]);
    }
    for (const auto& [name, others] : needed_) {
        const bool met =
            std::any_of(others.begin(), others.end(), [&](const std::string& n) { return has(n.c_str()); });
        if (has(name.c_str()) && !met) return fmt::format("--{} needs --{}", name, fmt::join(others, " or --"));
    }
    for (const auto& [name, words] : for_words_) {
        if (has(name.c_str()) && !is_for_word(name)) return fmt::format("--{} is for {}", name, fmt::join(words, ", "));
    }
    return {};
}

std::string CommandLine::help() const {
    std::ostringstream options;
    options << options_;
    return fmt::format("vyard {}\n\n{}\n\n{}\nExample:\n  {}\n", usage_, summary_, options.str(), example_);
}

std::vector<std::string> CommandLine::list(const char* name) const {
    return has(name) ? values_[name].as<std::vector<std::string>>() : std::vector<std::string>();
}

std::vector<std::string> CommandLine::names(const char* name) const {
    std::vector<std::string> out;
    for (const std::string& part : list(name)) {
        for (std::string& n : session::split_names(part)) out.push_back(std::move(n));
    }
    return out;
}

namespace {

bool coloured(const std::string& when, int file) {
    return when == "always" || (when == "auto" && isatty(file) != 0 && std::getenv("NO_COLOR") == nullptr);
}

}  // namespace

bool CommandLine::colours_output() const {
    return coloured(text("color"), STDOUT_FILENO);
}
bool CommandLine::colours_errors() const {
    return coloured(text("color"), STDERR_FILENO);
}

std::optional<double> CommandLine::quantity(const char* name, base::Dimension dimension, double otherwise, double low,
                                            double high) const {
    if (!has(name)) return otherwise;
    const auto reading = base::read_quantity(text(name), dimension);
    if (reading.fault != base::QuantityFault::None) {
        wrong_call(fmt::format("--{}: {}", name, base::quantity_message(text(name), reading, dimension)));
        return std::nullopt;
    }
    if (reading.si_value < low || reading.si_value > high) {
        wrong_call(fmt::format("--{}: {} is out of range; accepted: {}", name, text(name),
                               base::range_text(low, high, dimension)));
        return std::nullopt;
    }
    return reading.si_value;
}

std::vector<files::Substitute> CommandLine::substitutes() const {
    std::vector<files::Substitute> out;
    const std::vector<std::string> given = list("use");
    const base::SourcePtr source = base::make_source("--use", fmt::format("{}\n", fmt::join(given, "\n")));
    for (std::size_t i = 0; i < given.size(); ++i) {
        const std::string& s = given[i];
        const std::size_t equal = s.find('=');
        out.push_back({s.substr(0, equal),
                       equal == std::string::npos ? s : s.substr(equal + 1),
                       {source, static_cast<int>(i) + 1, 1, static_cast<int>(s.size())}});
    }
    return out;
}

std::optional<std::vector<session::Override>> CommandLine::overrides() const {
    std::vector<session::Override> out;
    const std::vector<std::string> given = list("set");
    const base::SourcePtr source = base::make_source("--set", fmt::format("{}\n", fmt::join(given, "\n")));
    for (std::size_t i = 0; i < given.size(); ++i) {
        const std::size_t equal = given[i].find('=');
        if (equal == std::string::npos || equal == 0) {
            wrong_call(fmt::format("--set: '{}' has no '='", given[i]), "--set glaze.level=0.2 m");
            return std::nullopt;
        }
        out.push_back({std::string(base::trimmed(given[i].substr(0, equal))),
                       std::string(base::trimmed(given[i].substr(equal + 1))),
                       {source, static_cast<int>(i) + 1, 1, static_cast<int>(given[i].size())}});
    }
    return out;
}

int wrong_call(const std::string& message, const std::string& hint) {
    fmt::print(stderr, "error: {}\n", message);
    if (!hint.empty()) fmt::print(stderr, "    hint: {}\n", hint);
    return kWrongCall;
}

bool names_yard(const std::string& word) {
    std::error_code failure;
    return files::is_logic_file(word) || std::filesystem::exists(files::join_path(word, "yard.toml"), failure) ||
           std::filesystem::path(word).filename() == "yard.toml" || std::filesystem::is_directory(word, failure);
}

bool names_procedure_file(const std::string& word) {
    std::error_code failure;
    return std::filesystem::path(word).extension() == ".proc" && std::filesystem::is_regular_file(word, failure);
}

namespace {

/// [NAME=][ROLE@]HOST:PORT; false after a report.
bool read_link_option(const std::string& text, files::LinkOptions& out) {
    files::LinkOption option;
    option.text = text;
    std::string rest = text;
    if (const std::size_t equals = rest.find('='); equals != std::string::npos) {
        option.controller = rest.substr(0, equals);
        rest = rest.substr(equals + 1);
    }
    if (const std::size_t at = rest.find('@'); at != std::string::npos) {
        const std::string role = rest.substr(0, at);
        for (const auto r :
             {controller::LinkRole::Server, controller::LinkRole::Client, controller::LinkRole::Screen}) {
            if (role == controller::role_name(r)) option.role = r;
        }
        if (!option.role) {
            wrong_call(fmt::format("--link: '{}' is no role of a link", role), "server, client or screen");
            return false;
        }
        rest = rest.substr(at + 1);
    }
    std::string host, why;
    int port = 0;
    if (!rest.empty() && !files::read_endpoint(rest, host, port, why)) {
        wrong_call(fmt::format("--link: '{}' is no address", rest), why);
        return false;
    }
    option.at = rest;
    out.links.push_back(std::move(option));
    return true;
}

}  // namespace

std::optional<files::LoadOptions> load_options(const CommandLine& line) {
    files::LoadOptions options;
    options.substitutes = line.substitutes();
    options.coverage = line.has("coverage");
    options.outside = line.has("outside");
    if (line.has("stimulus")) options.stimulus = line.text("stimulus");
    auto overrides = line.overrides();
    if (!overrides) return std::nullopt;
    options.overrides = std::move(*overrides);
    if (line.has("seed")) {
        const auto seed = line.quantity("seed", base::Dimension::Plain, 1.0, 0.0, 1e15);
        if (!seed) return std::nullopt;
        if (*seed != std::floor(*seed)) {
            wrong_call(fmt::format("--seed: {} is not a whole number", line.text("seed")));
            return std::nullopt;
        }
        options.seed = static_cast<std::uint64_t>(*seed);
    }
    options.link.here = line.has("here");
    options.link.stand_in = line.has_stand_ins();
    for (const std::string& text : line.list("link")) {
        if (!read_link_option(text, options.link)) return std::nullopt;
    }
    return options;
}

std::optional<Loaded> read_all(const CommandLine& line, std::size_t word, bool doubts) {
    base::Diagnostics diagnostics;
    Loaded loaded;
    const std::string named = line.word(word);
    const std::string where = names_procedure_file(named) ? files::yard_around(named) : named;
    const bool lone = files::is_logic_file(where);
    if (line.has("scan") && !lone) {
        wrong_call("--scan is for a lone logic file",
                   "a yard says its scans in yard.toml: [controller.NAME] scan = \"10 ms\"");
        return std::nullopt;
    }
    if (line.has("use") && lone) {
        wrong_call("--use is for a yard, whose files others can stand in for", "name the other file of logic itself");
        return std::nullopt;
    }
    const auto scan = line.quantity("scan", base::Dimension::Time, 0.0, 10e-6, 10.0);
    if (!scan) return std::nullopt;
    const std::string folder = where.empty() ? files::find_yard(".") : where;
    if (folder.empty()) {
        wrong_call("there is no yard.toml in this folder or above it", "name a yard: vyard check examples/glaze-line");
        return std::nullopt;
    }
    const auto loading = load_options(line);
    if (!loading) return std::nullopt;
    const files::LoadOptions& options = *loading;
    if (lone) {
        loaded.yard = files::load_logic(folder, *scan > 0.0 ? std::optional(base::from_seconds(*scan)) : std::nullopt,
                                        diagnostics, options);
    } else {
        loaded.yard = files::load_yard(folder, diagnostics, options);
    }
    const files::Yard& yard = loaded.yard;
    // What is proposed for a map is wanted before procedures can name what it joins.
    if (yard.checked != nullptr && !yard.procedures.empty() && !line.has("propose")) {
        loaded.book = procedure::read_book(*yard.checked, yard.procedures, diagnostics, yard.names_known);
    }
    if ((doubts || line.has("strict")) && yard.model != nullptr) {
        session::warn_unguarded(yard.model, diagnostics);
        session::warn_not_interlocked(yard.model, diagnostics);
        session::warn_foreseen(*yard.model, diagnostics);
    }
    diagnostics.sort();
    loaded.errors = diagnostics.error_count();
    loaded.warnings = diagnostics.warning_count();
    loaded.remarks = diagnostics.remark_count();
    loaded.diagnostics = diagnostics.list();
    return loaded;
}

namespace {

/// A command that runs a yard and cannot do it with controllers elsewhere; true after a report.
bool runs_elsewhere(const CommandLine& line, const session::SessionModel& model) {
    if (!line.takes("seed") || !line.is_for_word("seed") || line.takes("stand-in")) return false;
    for (const controller::ControllerModel& c : model.controllers) {
        if (!c.remote()) continue;
        wrong_call(fmt::format("'{}' is executed elsewhere, and this command runs all by itself", c.name),
                   "--here executes the logic of its stand-in here");
        return true;
    }
    return false;
}

}  // namespace

std::optional<Loaded> load(const CommandLine& line, bool show_warnings, std::size_t word, bool doubts) {
    auto loaded = read_all(line, word, doubts);
    if (!loaded) return std::nullopt;
    const bool strict = line.has("strict") && loaded->warnings > 0;
    std::vector<base::Diagnostic> shown;
    std::copy_if(loaded->diagnostics.begin(), loaded->diagnostics.end(), std::back_inserter(shown),
                 [&](const base::Diagnostic& d) {
                     return d.severity == base::Severity::Error || show_warnings ||
                            (strict && d.severity == base::Severity::Warning);
                 });
    show_diagnostics(line, shown);
    if (loaded->errors == 0 && !strict) {
        if (!runs_elsewhere(line, *loaded->yard.model)) return loaded;
        return std::nullopt;
    }
    if (loaded->errors > 0) fmt::print(stderr, "{}\n", number_of(static_cast<std::size_t>(loaded->errors), "error"));
    if (strict)
        fmt::print(stderr, "{}, and --strict\n", number_of(static_cast<std::size_t>(loaded->warnings), "warning"));
    return std::nullopt;
}

namespace {

/// The severity and the caret below the line stand out.
std::string in_colours(const base::Diagnostic& d) {
    std::string text = base::Diagnostics::render(d);
    const std::string word = d.severity == base::Severity::Error     ? "error:"
                             : d.severity == base::Severity::Warning ? "warning:"
                                                                     : "remark:";
    const char* colour = d.severity == base::Severity::Error     ? "\x1b[1;31m"
                         : d.severity == base::Severity::Warning ? "\x1b[1;35m"
                                                                 : "\x1b[1;36m";
    if (const std::size_t at = text.find(word); at != std::string::npos && at < text.find('\n'))
        text.replace(at, word.size(), fmt::format("{}{}\x1b[0m", colour, word));
    for (std::size_t begin = 0; begin < text.size();) {
        const std::size_t end = text.find('\n', begin);
        const std::size_t caret = text.find('^', begin);
        if (caret < end && text.find_first_not_of(" |^~", begin) >= end) {
            text.insert(end, "\x1b[0m");
            text.insert(caret, "\x1b[32m");
            break;
        }
        begin = end + 1;
    }
    return text;
}

}  // namespace

void CommandLine::remember(const std::vector<base::Diagnostic>& reported) const {
    refused_by_system_ |= std::any_of(reported.begin(), reported.end(), [](const base::Diagnostic& d) {
        return d.severity == base::Severity::Error && d.code == base::Code::FileUnreadable;
    });
}

void show_diagnostics(const CommandLine& line, const std::vector<base::Diagnostic>& list) {
    const bool colours = line.colours_errors();
    line.remember(list);
    for (const base::Diagnostic& d : list)
        fmt::print(stderr, "{}", colours ? in_colours(d) : base::Diagnostics::render(d));
}

void show_diagnostics(const CommandLine& line, const base::Diagnostics& diagnostics) {
    show_diagnostics(line, diagnostics.list());
    std::size_t shown = 0;
    for (const base::Diagnostic& d : diagnostics.list()) shown += base::Diagnostics::render(d).size();
    fmt::print(stderr, "{}", diagnostics.render().substr(shown));
}

std::string number_of(std::size_t count, const char* noun) {
    return fmt::format("{} {}{}", count, noun, count == 1 ? "" : "s");
}

namespace {

bool same_file(const std::string& a, const std::string& b) {
    std::error_code failure;
    if (std::filesystem::equivalent(a, b, failure)) return true;
    return std::filesystem::weakly_canonical(a, failure) == std::filesystem::weakly_canonical(b, failure) && !failure;
}

}  // namespace

std::optional<int> refuse_outputs(const std::vector<std::string>& read, const std::vector<std::string>& results) {
    for (const std::string& result : results) {
        if (is_standard_output(result)) continue;
        const auto input =
            std::find_if(read.begin(), read.end(), [&](const std::string& r) { return same_file(r, result); });
        if (input != read.end())
            return wrong_call(fmt::format("'{}' would take the place of {}, which is read", result, *input),
                              "name another file or folder");
        if (const std::string why = files::why_not_writable(result); !why.empty()) {
            fmt::print(stderr, "error: cannot write {}: {}\n", result, why);
            return kOurFault;
        }
    }
    return std::nullopt;
}

bool is_figure_file(const std::string& path) {
    return path.ends_with(".svg") || path.ends_with(".png") || path.ends_with(".pdf");
}

int wrong_figure_file(const std::string& path) {
    return wrong_call(fmt::format("the format of '{}' is not known", path), "end it with .svg, .png or .pdf");
}

bool is_standard_output(const std::string& path) {
    return path == "-";
}

bool write_file(const std::string& path, const std::string& text) {
    std::string why;
    if (files::write_text(path, text, why)) return true;
    fmt::print(stderr, "error: {}\n", why);
    return false;
}

void announce(const CommandLine& line, const std::string& path) {
    if (!line.quiet() && !line.has("json")) fmt::print("wrote {}\n", path);
}

bool write_result(const CommandLine& line, const std::string& path, const std::string& text) {
    if (is_standard_output(path)) {
        fmt::print("{}", text);
        return true;
    }
    if (!write_file(path, text)) return false;
    announce(line, path);
    return true;
}

bool keep_result(const CommandLine& line, files::WholeFile& file) {
    std::string why;
    if (!file.keep(why)) {
        fmt::print(stderr, "error: {}\n", why);
        return false;
    }
    announce(line, file.path());
    return true;
}

std::optional<std::vector<trace::Channel>> channels_for(const session::SessionModel& model,
                                                        const std::vector<std::string>& names) {
    std::vector<trace::Channel> out;
    bool ok = true;
    for (const std::string& name : names) {
        const session::Search found = session::search(model, name);
        if (found.signal) {
            out.push_back(trace::make_channel(model, name, *found.signal));
        } else {
            wrong_call(found.problem, found.hint);
            ok = false;
        }
    }
    if (!ok) return std::nullopt;
    return out;
}

namespace {

/// Whether a name means this file: its stem, its name, or a path to it from here or from the yard.
bool means_file(const std::string& name, const std::filesystem::path& file) {
    const std::filesystem::path path = std::filesystem::path(name).lexically_normal();
    if (file.stem() == name || file.filename() == name) return true;
    if (file.string().ends_with(fmt::format("/{}", path.string()))) return true;
    std::error_code failure;
    return std::filesystem::equivalent(path, file, failure);
}

}  // namespace

std::vector<std::size_t> find_procedures(const Loaded& loaded, const std::string& name) {
    std::vector<std::string> known;
    std::vector<std::size_t> whole, of_file, begun;
    std::set<std::string> beginnings;
    const std::string wanted = base::fold(name);
    const std::size_t count = loaded.book == nullptr ? 0 : loaded.book->procedures.size();
    for (std::size_t i = 0; i < count; ++i) {
        const procedure::ProcedureModel& p = loaded.book->procedures[i];
        const std::filesystem::path file(p.place.source->path);
        const std::string stem = file.stem().string(), full = base::fold(p.name);
        known.push_back(p.name);
        known.push_back(stem);
        if (full == wanted) whole.push_back(i);
        if (means_file(name, file)) of_file.push_back(i);
        const bool starts = full.starts_with(wanted), file_starts = base::fold(stem).starts_with(wanted);
        if (!starts && !file_starts) continue;
        begun.push_back(i);
        beginnings.insert(file_starts ? "file " + stem : "procedure " + p.name);
    }
    if (!whole.empty()) return whole;
    if (!of_file.empty()) return of_file;
    if (beginnings.size() == 1) return begun;
    if (beginnings.empty() && names_procedure_file(name)) {
        wrong_call(fmt::format("'{}' is none of the yard's procedure files", name),
                   "yard.toml names them: [yard] procedures = [\"procedures/*.proc\"]");
    } else if (beginnings.empty()) {
        wrong_call(fmt::format("no procedure is named '{}'", name),
                   known.empty() ? "the yard names no procedures" : base::name_hint(name, known));
    } else {
        wrong_call(fmt::format("'{}' is the beginning of {}", name, fmt::join(beginnings, ", ")), "write more of it");
    }
    return {};
}

std::shared_ptr<const procedure::Book> read_orders(const CommandLine& line, const session::SessionModel& model) {
    std::string text;  // a message names the line, which is the number of the --do
    for (const std::string& order : line.list("do")) text += order + "\n";
    base::Diagnostics diagnostics;
    auto book = procedure::read_orders(model, base::make_source("--do", text), diagnostics);
    if (book == nullptr) show_diagnostics(line, diagnostics);
    return book;
}

}  // namespace vyard::cli
