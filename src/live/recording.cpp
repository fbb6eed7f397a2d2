#include "live/recording.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

namespace vyard::live {

namespace {

std::string size_text(std::uintmax_t bytes) {
    if (bytes < 10'000) return fmt::format("{} bytes", bytes);
    if (bytes < 10'000'000) return fmt::format("{:.0f} kB", static_cast<double>(bytes) / 1e3);
    return fmt::format("{:.1f} MB", static_cast<double>(bytes) / 1e6);
}

}  // namespace

std::string Recording::Files::keep() {
    std::string why;
    const auto vcd_size = vcd.size(), csv_size = csv.size();
    if (!vcd.keep(why) || !csv.keep(why)) return why;
    return fmt::format("wrote {} ({}) and {} ({})", vcd.path(), size_text(vcd_size), csv.path(), size_text(csv_size));
}

std::string Recording::free_folder(const char* name) const {
    for (int n = 1;; ++n) {
        std::string path = files::join_path(folder_, fmt::format("{}-{}", name, n));
        std::error_code ignored;
        if (!std::filesystem::exists(path, ignored)) return path;
    }
}

std::string Recording::start(const session::Session& session, std::vector<trace::Channel> channels) {
    model_ = session.model_ptr();
    channels_ = channels;
    out_ = std::make_unique<Files>(free_folder("live"));
    recorder_ = std::make_unique<trace::Recorder>(session, std::move(channels),
                                                  std::vector<trace::Sink*>{&out_->vcd_sink, &out_->csv_sink});
    if (std::string why = out_->vcd.flush() + out_->csv.flush(); !why.empty()) {
        why = fmt::format("cannot write {}: {}", out_->folder, why);
        recorder_.reset();
        out_.reset();
        return why;
    }
    return fmt::format("records {} signals to {}/trace.vcd and trace.csv", channels_.size(), out_->folder);
}

std::string Recording::stop(const session::Session& session) {
    if (out_ == nullptr) return "nothing is recorded";
    recorder_->finish(session);
    recorder_.reset();
    std::string said = out_->keep();
    out_.reset();
    return said;
}

void Recording::begin_again(Trigger& t, const session::Session& session) const {
    t.ring = std::make_unique<trace::Ring>(t.before + t.after, kMostRingChanges);
    t.recorder = std::make_unique<trace::Recorder>(session, trace::usual_channels(session.model()),
                                                   std::vector<trace::Sink*>{t.ring.get()});
    t.was = true;
    t.came.reset();
}

std::string Recording::arm(const session::Session& session, const std::string& condition, base::Nanoseconds before,
                           base::Nanoseconds after) {
    base::Diagnostics diagnostics;
    const auto book =
        procedure::read_order(session.model(), base::make_source("input", "expect " + condition), diagnostics);
    for (const base::Diagnostic& d : diagnostics.list()) {
        if (d.severity == base::Severity::Error) return d.hint.empty() ? d.message : d.message + "; " + d.hint;
    }
    if (book == nullptr) return "it is not a valid condition";
    Trigger t{book, condition, before, after, nullptr, nullptr, procedure::Evaluator(book->conditions), true, {}};
    begin_again(t, session);
    triggers_.push_back(std::move(t));
    model_ = session.model_ptr();
    return {};
}

std::vector<std::string> Recording::arm_anew(const session::Session& session) {
    std::vector<std::string> said = write_all_caught();
    for (const Trigger& t : std::exchange(triggers_, {})) {
        const std::string problem = arm(session, t.text, t.before, t.after);
        if (!problem.empty()) said.push_back(fmt::format("no longer waits for {}: {}", t.text, problem));
    }
    return said;
}

std::vector<std::string> Recording::armed() const {
    std::vector<std::string> out;
    for (const Trigger& t : triggers_) out.push_back(t.text);
    return out;
}

std::vector<std::string> Recording::look(const session::Session& session) {
    std::vector<std::string> said;
    if (recorder_ != nullptr) recorder_->observe(session);
    for (Trigger& t : triggers_) {
        t.recorder->observe(session);
        if (session.scanned() && !t.came) {
            const int condition = t.condition->procedures[0].steps[0].orders[0].condition;
            const bool is = t.evaluator.evaluate(condition, session).yes();
            if (is && !t.was) {
                t.came = session.now();
                said.push_back(fmt::format("caught: {}", t.text));
            }
            t.was = is;
        }
        if (t.came && session.now() >= *t.came + t.after) said.push_back(write_caught(t, session.now()));
    }
    return said;
}

std::string Recording::write_caught(Trigger& t, base::Nanoseconds until) {
    Files out(free_folder("caught"));
    const base::Nanoseconds from = std::max(*t.came - t.before, base::Nanoseconds(0));
    const base::Nanoseconds begin = t.ring->write(from, until, out.vcd_sink);
    t.ring->write(from, until, out.csv_sink);
    t.came.reset();
    std::string said = out.keep();
    if (begin > from) said = fmt::format("{}; it begins at {}, as no more was kept", said, base::clock_text(begin));
    return said;
}

/// What has come is written as far as it went, when nothing more of it comes.
std::vector<std::string> Recording::write_all_caught() {
    std::vector<std::string> said;
    for (Trigger& t : triggers_) {
        if (t.came) said.push_back(write_caught(t, *t.came + t.after));
    }
    return said;
}

std::vector<std::string> Recording::end(const session::Session& session) {
    std::vector<std::string> said = write_all_caught();
    if (on()) said.push_back(stop(session));
    return said;
}

std::string Recording::flush() {
    if (out_ == nullptr) return {};
    const std::string why = out_->vcd.flush() + out_->csv.flush();
    if (why.empty()) return {};
    std::string said =
        fmt::format("cannot write {}: {}; the recording is given up, and nothing of it is kept", out_->folder, why);
    recorder_.reset();
    out_.reset();
    return said;
}

void Recording::end_files() {
    out_->vcd_sink.end({});
    out_->csv_sink.end({});
    recorder_.reset();
}

std::vector<std::string> Recording::moved(const session::Session& session) {
    if (model_ != nullptr && model_ != session.model_ptr()) return yard_changed(session);
    std::vector<std::string> said = write_all_caught();
    for (Trigger& t : triggers_) begin_again(t, session);
    if (out_ == nullptr) return said;
    // The files end where the run left its course: what comes now is another one, with times that were there before.
    end_files();
    said.push_back(out_->keep());
    out_.reset();
    said.push_back(start(session, std::exchange(channels_, {})));
    return said;
}

std::vector<std::string> Recording::follow(int controller, const controller::Rebinding& rebinding,
                                           const session::Session& session) {
    if (recorder_ != nullptr) recorder_->follow(controller, rebinding, session);
    for (trace::Channel& c : channels_) {
        if (const auto now = session::rebound(c.signal, controller, rebinding)) c.signal = *now;
    }
    model_ = session.model_ptr();
    return arm_anew(session);
}

std::vector<std::string> Recording::yard_changed(const session::Session& session) {
    model_ = session.model_ptr();
    std::vector<std::string> said = arm_anew(session);
    if (out_ == nullptr) return said;
    end_files();
    said.push_back(out_->keep());
    out_.reset();
    std::vector<trace::Channel> channels;
    for (const trace::Channel& c : std::exchange(channels_, {})) {
        if (const auto signal = session::find_signal(session.model(), c.name))
            channels.push_back(trace::make_channel(session.model(), c.name, *signal));
    }
    said.push_back(start(session, std::move(channels)));
    return said;
}

}  // namespace vyard::live
