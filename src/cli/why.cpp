#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "cli/drive.hpp"
#include "core/procedure/procedure.hpp"
#include "core/trace/trace.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

nlohmann::ordered_json json_of(const procedure::Cause& cause) {
    nlohmann::ordered_json out{{"text", cause.text}, {"because", nlohmann::ordered_json::array()}};
    for (const procedure::Cause& c : cause.because) out["because"].push_back(json_of(c));
    return out;
}

/// A run up to one moment, with all that is known of it.
struct Seen {
    session::Session session;
    trace::Trace trace;
    std::vector<procedure::Deed> deeds;
};

/// Without `at`, at its end.
Seen seen_at(Drive way, const Loaded& loaded, std::optional<base::Nanoseconds> at) {
    const session::Session fresh(loaded.yard.model);
    trace::Trace trace;
    trace::Recorder recorder(fresh, trace::usual_channels(*loaded.yard.model), {&trace});
    session::Session session =
        session_at(way, loaded.yard.model, at, [&](const session::Session& s) { recorder.observe(s); });
    recorder.finish(session);
    // What came after the moment that is asked about is no cause.
    std::erase_if(way.deeds, [&](const procedure::Deed& d) { return d.time > session.now(); });
    return {std::move(session), std::move(trace), std::move(way.deeds)};
}

/// The statement that gave a signal the value that it took at one time; null when the logic did not.
std::optional<base::Place> last_written(Drive way, const Loaded& loaded, const session::Signal& signal,
                                        base::Nanoseconds changed) {
    const session::SessionModelPtr& model = loaded.yard.model;
    return procedure::last_write(session_at(way, model, changed - model->step, {}), signal);
}

}  // namespace

CommandLine why_line() {
    CommandLine line(
        "why [YARD] NAME... [options]",
        "Says why a tag, point or actual is as it is at one time of a run, back to its causes: the contacts and "
        "conditions that hold it,\nthe inputs behind them, the devices, the defects on them, and what was "
        "ordered.",
        "vyard why examples/glaze-line line_run --procedure 2_stop_and_estop --at 12s");
    line.add_yard_options();
    line.add_run_options();
    add_drive_options(line, "0 s");
    line.options().add_options()("at", po::value<std::string>()->value_name("TIME"),
                                 "when; default the end of the run")("json", "as JSON");
    line.takes_words(1000);
    return line;
}

int why_command(const CommandLine& line) {
    const bool yard_named = names_yard(line.word(0));
    const auto loaded = load(line, false, yard_named ? 0 : line.words().size());
    if (!loaded) return kWrongCall;
    const std::vector<std::string> names(line.words().begin() + (yard_named ? 1 : 0), line.words().end());
    if (names.empty()) return wrong_call("name a tag, a point or an actual", "vyard why examples/glaze-line line_run");
    const session::SessionModel& model = *loaded->yard.model;
    const auto channels = channels_for(model, names);
    if (!channels) return kWrongCall;
    const auto at = line.quantity("at", base::Dimension::Time, 0.0, 0.0, 3.6e6);
    const auto way = read_drive(line, *loaded, 0.0);
    if (!at || !way) return kWrongCall;
    const Seen now = seen_at(*way, *loaded, line.has("at") ? std::optional(base::from_seconds(*at)) : std::nullopt);
    nlohmann::ordered_json all = nlohmann::ordered_json::array();
    for (const trace::Channel& channel : *channels) {
        const std::string& name = channel.name;
        const session::Signal& signal = channel.signal;
        const procedure::Cause cause = procedure::cause_of(now.session, now.trace, now.deeds, name, signal);
        // What holds it now may not be what brought it about: the run is looked at again as it was then.
        std::optional<procedure::Cause> then;
        const auto changed = procedure::changed_at(now.trace, signal);
        if (changed && *changed < now.session.now()) {
            const Seen before = seen_at(*way, *loaded, changed);
            then = procedure::cause_of(before.session, before.trace, before.deeds, name, signal);
        }
        const auto written = changed ? last_written(*way, *loaded, signal, *changed) : std::nullopt;
        if (line.has("json")) {
            all.push_back(json_of(cause));
            if (then) all.back()["when_it_changed"] = json_of(*then);
            if (written)
                all.back()["last_written"] = {{"time_s", base::to_seconds(*changed)}, {"place", written->text()}};
            continue;
        }
        for (const std::string& text : procedure::lines_of(cause)) fmt::print("{}\n", text);
        if (written)
            fmt::print("written last at {}, by {}: {}\n", base::clock_text(*changed), written->text(),
                       base::trimmed(written->source->line(written->line)));
        // Where numbers are written does not change with time.
        const bool list =
            then && std::all_of(then->because.begin(), then->because.end(),
                                [](const procedure::Cause& c) { return c.text.starts_with("written in "); });
        if (!then || (list && written)) continue;
        fmt::print("when it changed, at {}\n", base::clock_text(*changed));
        for (const procedure::Cause& c : then->because) {
            for (const std::string& text : procedure::lines_of(c)) fmt::print("  {}\n", text);
        }
    }
    if (line.has("json")) fmt::print("{}\n", all.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace));
    return kWell;
}

}  // namespace vyard::cli
