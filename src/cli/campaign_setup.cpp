#include "cli/campaign_setup.hpp"

#include <fmt/format.h>

#include <cmath>
#include <cstdio>
#include <sstream>
#include <thread>

#include "files/text_file.hpp"

namespace vyard::cli {

std::string hash_of(const files::Yard& yard) {
    std::uint64_t hash = 14695981039346656037ULL;
    for (const auto* list : {&yard.frame, &yard.logic, &yard.procedures}) {
        for (const base::SourcePtr& source : *list) {
            for (const char c : source->text) hash = (hash ^ static_cast<unsigned char>(c)) * 1099511628211ULL;
        }
    }
    return fmt::format("{:016x}", hash);
}

namespace {

/// "2/4"; false after a report.
bool read_shard(const CommandLine& line, campaign::Setup& setup) {
    if (!line.has("shard")) return true;
    const std::string text = line.text("shard");
    unsigned part = 0, of = 0;
    char more = 0;
    if (std::sscanf(text.c_str(), "%u/%u%c", &part, &of, &more) != 2 || part < 1 || part > of || of > 100'000) {
        wrong_call(fmt::format("--shard: '{}' is not a part of all, such as 2/4", text));
        return false;
    }
    setup.shard = part;
    setup.shards = of;
    return true;
}

/// A whole number of an option; false after a report.
template <class Number>
bool read_count(const CommandLine& line, const char* name, double low, double high, Number& out) {
    const auto value = line.quantity(name, base::Dimension::Plain, static_cast<double>(out), low, high);
    if (!value) return false;
    if (*value != std::floor(*value)) {
        wrong_call(fmt::format("--{}: {} is not a whole number", name, line.text(name)));
        return false;
    }
    out = static_cast<Number>(*value);
    return true;
}

}  // namespace

std::optional<campaign::Setup> read_setup(const CommandLine& line, const Loaded& loaded, bool faults) {
    campaign::Setup setup;
    setup.model = loaded.yard.model;
    setup.work.threads = std::max(1U, std::thread::hardware_concurrency());
    if (faults) setup.moments = 3;
    const auto allowed = line.quantity("allowed", base::Dimension::Time, 1.0, 0.0, 3600.0);
    const auto patience = line.quantity("patience", base::Dimension::Time, 20.0, 0.0, 3600.0);
    const bool counts = read_count(line, "jobs", 1, 1024, setup.work.threads) &&
                        read_count(line, "limit", 1, 1e9, setup.limit) &&
                        read_count(line, "moments", 1, 10'000, setup.moments) && read_shard(line, setup);
    if (!allowed || !patience || !counts) return std::nullopt;
    setup.allowed = base::from_seconds(*allowed);
    setup.patience = base::from_seconds(*patience);
    setup.pairs = line.has("pairs");
    base::Diagnostics diagnostics;
    setup.book = campaign::with_watch(*loaded.yard.model, loaded.yard.procedures, diagnostics);
    VYARD_CHECK(setup.book != nullptr);  // they were read before
    for (const std::string& name : line.list("procedure")) {
        const auto found = find_procedures(loaded, name);
        if (found.empty()) return std::nullopt;
        setup.procedures.insert(setup.procedures.end(), found.begin(), found.end());
    }
    if (setup.procedures.empty()) {
        for (std::size_t i = 0; i + 1 < setup.book->procedures.size(); ++i) setup.procedures.push_back(i);
    }
    std::string problem;
    setup.alarms = line.has("alarms") ? campaign::alarms_named(*loaded.yard.model, line.names("alarms"), problem)
                                      : campaign::find_alarms(*loaded.yard.model);
    if (!problem.empty()) {
        wrong_call("--alarms: " + problem);
        return std::nullopt;
    }
    return setup;
}

std::string options_text(const CommandLine& line, const campaign::Setup& setup) {
    std::string out =
        fmt::format("moments {} limit {} allowed {} patience {}{}", setup.moments, setup.limit,
                    base::clock_text(setup.allowed), base::clock_text(setup.patience), setup.pairs ? " pairs" : "");
    for (const char* name : {"use", "set", "procedure", "alarms", "vary"}) {
        for (const std::string& value : line.list(name)) out.append(fmt::format(" --{} {}", name, value));
    }
    for (const char* name : {"seed", "random"}) {
        if (line.has(name)) out.append(fmt::format(" --{} {}", name, line.text(name)));
    }
    return out;
}

std::optional<SweepOf> read_sweep(const CommandLine& line, const Loaded& loaded, const campaign::Setup& setup) {
    SweepOf out;
    out.procedures = setup.procedures.size();
    const auto is_device = [&](std::string_view name) {
        return loaded.yard.model->plant->find_device(name) != plant::kNone;
    };
    for (const std::string& text : line.list("vary")) {
        std::string problem;
        auto axis = campaign::read_axis(text, is_device, problem);
        if (!axis) {
            wrong_call("--vary: " + problem, "--vary dip_eye.at=\"0.40m..0.48m/10mm\"");
            return std::nullopt;
        }
        out.plan.axes.push_back(std::move(*axis));
    }
    if (out.plan.axes.empty()) {
        wrong_call("a sweep needs --vary", "--vary dip_eye.at=\"0.40m..0.48m/10mm\"");
        return std::nullopt;
    }
    const auto options = load_options(line);
    if (!options || !read_count(line, "random", 1, 1e6, out.plan.random)) return std::nullopt;
    out.plan.seed = options->seed.value_or(1);
    out.plan.load = [options = *options, source = base::make_source("--vary", ""),
                     folder = loaded.yard.folder.empty() ? std::string(".") : loaded.yard.folder](
                        const std::vector<std::pair<std::string, std::string>>& values) {
        files::LoadOptions varied = options;
        for (const auto& [name, value] : values) {
            if (base::fold(name) == "seed")
                varied.seed = std::strtoull(value.c_str(), nullptr, 10);
            else
                varied.overrides.push_back({name, value, {source, 1, 1, 1}});
        }
        base::Diagnostics diagnostics;
        const files::Yard yard = files::load_yard(folder, diagnostics, varied);
        campaign::Variant out;
        if (yard.model != nullptr && !diagnostics.has_errors())
            out.book = campaign::with_watch(*yard.model, yard.procedures, diagnostics);
        if (out.book != nullptr) out.model = yard.model;
        for (const base::Diagnostic& d : diagnostics.list()) {
            if (d.severity == base::Severity::Error && out.problem.empty()) out.problem = d.message;
        }
        return out;
    };
    out.points = campaign::points_of(out.plan);
    return out;
}

std::string corpus_path(const files::Yard& yard) {
    return files::join_path(yard.folder, ".vyard/hunt.txt");
}

std::string corpus_text(const std::vector<campaign::Sequence>& corpus) {
    std::string out;
    for (const campaign::Sequence& s : corpus) out.append(campaign::sequence_text(s)).append("\n");
    return out;
}

std::optional<campaign::HuntPlan> read_hunt(const CommandLine& line, const files::Yard& yard) {
    campaign::HuntPlan out;
    if (!read_count(line, "limit", 1, 1e9, out.sequences)) return std::nullopt;
    const auto options = load_options(line);
    if (!options) return std::nullopt;
    out.seed = options->seed.value_or(1);
    out.faults = line.has("with-faults");
    std::string why;
    if (!line.has("corpus") || !files::is_there(corpus_path(yard))) return out;
    const auto text = files::read_text(corpus_path(yard), why);
    if (!text) {
        wrong_call(fmt::format("cannot read {}: {}", corpus_path(yard), why));
        return std::nullopt;
    }
    std::istringstream lines(*text);
    int number = 0;
    for (std::string one; std::getline(lines, one);) {
        ++number;
        auto sequence = campaign::read_sequence(one);
        if (!sequence) {
            wrong_call(fmt::format("{}:{}: not a sequence of a hunt: '{}'", corpus_path(yard), number,
                                   base::shown(one.substr(0, 60))),
                       "a line is such as 200000 us press panel.start; 10000 us press panel.stop");
            return std::nullopt;
        }
        out.corpus.push_back(std::move(*sequence));
    }
    return out;
}

}  // namespace vyard::cli
