#include "cli/command.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <sstream>

#include "files/stimulus_file.hpp"
#include "files/text_file.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

CommandLine::CommandLine(std::string usage, std::string summary, std::string example)
    : usage_(std::move(usage)), summary_(std::move(summary)), example_(std::move(example)) {
    options_.add_options()("help,h", "show this");
}

void CommandLine::add_yard_options() {
    options_.add_options()("use", po::value<std::vector<std::string>>()->composing()->value_name("FILE=OTHER"),
                           "read OTHER in place of the yard's FILE, such as logic/line.st=variants/slow.st")(
        "scan", po::value<std::string>()->value_name("TIME"),
        "the scan of a lone logic file, which is a yard without a plant: vyard run blend.st --scan 10ms");
}

void CommandLine::add_stimulus_option() {
    options_.add_options()(
        "stimulus", po::value<std::string>()->value_name("FILE.csv"),
        "a table of time, tag, value: each value is written once, before the first scan at or after its time");
}

namespace {

std::vector<std::string> option_names(const po::options_description& options) {
    std::vector<std::string> names;
    for (const auto& o : options.options()) names.push_back("--" + o->long_name());
    return names;
}

}  // namespace

std::optional<int> CommandLine::parse(const std::vector<std::string>& arguments, std::size_t max_words) {
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
        std::ostringstream options;
        options << options_;
        fmt::print("vyard {}\n\n{}\n\n{}\nExample:\n  {}\n", usage_, summary_, options.str(), example_);
        return kWell;
    }
    if (has("words")) words_ = values_["words"].as<std::vector<std::string>>();
    if (words_.size() > max_words)
        return wrong_call(fmt::format("'{}' is one word too many", words_[max_words]), "usage: vyard " + usage_);
    return std::nullopt;
}

std::vector<std::string> CommandLine::list(const char* name) const {
    return has(name) ? values_[name].as<std::vector<std::string>>() : std::vector<std::string>();
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
        wrong_call(fmt::format("--{}: {} is out of range; accepted: {:g} to {:g} {}", name, text(name), low, high,
                               base::display_unit(dimension)));
        return std::nullopt;
    }
    return reading.si_value;
}

std::vector<files::Substitute> CommandLine::substitutes() const {
    std::vector<files::Substitute> out;
    for (const std::string& s : list("use")) {
        const std::size_t equal = s.find('=');
        out.push_back({s.substr(0, equal), equal == std::string::npos ? s : s.substr(equal + 1)});
    }
    return out;
}

int wrong_call(const std::string& message, const std::string& hint) {
    fmt::print(stderr, "error: {}\n", message);
    if (!hint.empty()) fmt::print(stderr, "    hint: {}\n", hint);
    return kWrongCall;
}

namespace {

void add_stimuli(const std::string& path, files::Yard& yard, base::Diagnostics& diagnostics) {
    const base::SourcePtr source = files::read_source(path, {}, diagnostics);
    if (source == nullptr || yard.checked == nullptr) return;
    auto model = std::make_shared<session::SessionModel>(*yard.checked);
    if (yard.names_known) files::read_stimulus(source, *model, diagnostics);
    yard.checked = model;
    if (yard.model != nullptr) yard.model = model;
}

}  // namespace

std::optional<Loaded> load(const CommandLine& line, bool show_warnings, std::size_t word) {
    base::Diagnostics diagnostics;
    Loaded loaded;
    const std::string where = line.word(word);
    const bool lone = files::is_logic_file(where);
    if (line.has("scan") && !lone) {
        wrong_call("--scan is for a lone logic file",
                   "a yard says its scans in yard.toml: [controller.NAME] scan = \"10 ms\"");
        return std::nullopt;
    }
    const auto scan = line.quantity("scan", base::Dimension::Time, 0.0, 10e-6, 10.0);
    if (!scan) return std::nullopt;
    const std::string folder = where.empty() ? files::find_yard(".") : where;
    if (folder.empty()) {
        wrong_call("there is no yard.toml in this folder or above it", "name a yard: vyard check examples/glaze-line");
        return std::nullopt;
    }
    if (lone) {
        loaded.yard = files::load_logic(folder, *scan > 0.0 ? std::optional(base::from_seconds(*scan)) : std::nullopt,
                                        diagnostics);
    } else {
        loaded.yard = files::load_yard(folder, diagnostics, line.substitutes());
    }
    if (line.has("stimulus")) add_stimuli(line.text("stimulus"), loaded.yard, diagnostics);
    const files::Yard& yard = loaded.yard;
    if (yard.checked != nullptr && !yard.procedures.empty()) {
        loaded.book = procedure::read_book(*yard.checked, yard.procedures, diagnostics, yard.names_known);
    }
    diagnostics.sort();
    loaded.warnings = diagnostics.warning_count();
    for (const base::Diagnostic& d : diagnostics.list()) {
        if (d.severity == base::Severity::Error || show_warnings)
            fmt::print(stderr, "{}", base::Diagnostics::render(d));
    }
    if (!diagnostics.has_errors()) return loaded;
    fmt::print(stderr, "{} error{}\n", diagnostics.error_count(), diagnostics.error_count() == 1 ? "" : "s");
    return std::nullopt;
}

bool write_result(const std::string& path, const std::string& text, bool announce) {
    std::string why;
    if (!files::write_text(path, text, why)) {
        fmt::print(stderr, "error: {}\n", why);
        return false;
    }
    if (announce) fmt::print("wrote {}\n", path);
    return true;
}

std::vector<std::string> split_names(const std::string& text) {
    std::vector<std::string> out(1);
    int brackets = 0;  // the comma of main.grid[1,2] is part of a name
    for (const char c : text) {
        brackets += c == '[' ? 1 : c == ']' ? -1 : 0;
        if (c == ',' && brackets <= 0) {
            out.emplace_back();
        } else if (c != ' ') {
            out.back() += c;
        }
    }
    std::erase(out, "");
    return out;
}

std::optional<std::vector<trace::Channel>> channels_for(const session::SessionModel& model,
                                                        const std::vector<std::string>& names) {
    std::vector<trace::Channel> out;
    bool ok = true;
    for (const std::string& name : names) {
        if (const auto signal = session::find_signal(model, name)) {
            out.push_back({name, *signal});
        } else {
            wrong_call(fmt::format("no tag, point or gauge is named '{}'", name),
                       base::name_hint(name, session::signal_names(model)));
            ok = false;
        }
    }
    if (!ok) return std::nullopt;
    return out;
}

int find_procedure(const Loaded& loaded, const std::string& name) {
    std::vector<std::string> known;
    if (loaded.book != nullptr) {
        const auto& all = loaded.book->procedures;
        for (std::size_t i = 0; i < all.size(); ++i) {
            const std::string stem = std::filesystem::path(all[i].place.source->path).stem().string();
            if (base::fold(all[i].name) == base::fold(name) || stem == name) return static_cast<int>(i);
            known.push_back(all[i].name);
            known.push_back(stem);
        }
    }
    wrong_call(fmt::format("no procedure is named '{}'", name),
               known.empty() ? "the yard names no procedures" : base::name_hint(name, known));
    return -1;
}

std::shared_ptr<const procedure::Book> read_orders(const session::SessionModel& model,
                                                   const std::vector<std::string>& lines) {
    std::string text = "procedure \"orders\"\nstep \"orders\"\n";
    for (const std::string& line : lines) text += line + "\n";
    base::Diagnostics diagnostics;
    auto book = procedure::read_book(model, {base::make_source("--do", text)}, diagnostics);
    if (book == nullptr) fmt::print(stderr, "{}", diagnostics.render());
    return book;
}

bool colour_on_output() {
    return isatty(STDOUT_FILENO) != 0 && std::getenv("NO_COLOR") == nullptr;
}

}  // namespace vyard::cli
