#include "live/sitting.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <filesystem>
#include <limits>

#include "figures/plan.hpp"
#include "files/list_file.hpp"
#include "files/text_file.hpp"
#include "live/table_orders.hpp"
#include "live/wall_watch.hpp"

namespace vyard::live {

using base::Nanoseconds;

namespace {

constexpr const char* kHelp =
    "orders, as in procedures:\n"
    "  press D [for T]   release D   turn D to POSITION   set D to VALUE   reset D   pull D   open D   tilt D to X\n"
    "  force TAG = VALUE (at once)   unforce TAG|all   forces off|on   write TAG = VALUE (once)\n"
    "  fault POINT stuck on|off|at X   fault POINT open_wire|short|chatter|delay|noise|drift|offset|gain [AMOUNT]\n"
    "  fault D NAME [AMOUNT]   ... [for T | every N | at random every T for T]   heal D|all\n"
    "  drive POINT = VALUE   undrive POINT|all   (a device's own hand override)\n"
    "  take from BELT [at X]   place ITEM on BELT at X [colour C]   shift item on BELT [at X] by X\n"
    "  turn item on BELT [at X] by A   swap item on BELT [at X] for ITEM   stop   start [warm]   power off|on\n"
    "  wait T   wait until COND [within T]   expect COND [within T [not before T]] [for T]\n"
    "  measure [\"NAME\"] from COND to COND [within T]   expect stopped [CONTROLLER] [within T]\n"
    "  T is a time, or N scans; TAG also an element, a field, a part (status.%X3), an address (%QB0)\n"
    "  COND compares with units: level > 200 mm; logic.TAG is what the logic worked out, plant.D.NAME the plant's\n"
    "and here:\n"
    "  watch NAMES [hex|binary|decimal|signed|time|text] [band X] [every T]   NAMES also lift_*; watch COND\n"
    "  unwatch NAMES|all   show NAMES   why TAG   status   rules [again]   help   quit [anyway]\n"
    "  list NAME (lists/NAME.csv: watch it)   list NAME write [TAG]   lists\n"
    "  run   restart cold|warm   everything reset   procedure NAME|FILE (from here)   table FILE (a stimulus)\n"
    "  pace FACTOR|max   pause   go   scan [N]   step [N]   mark NAME   measure NAME to NAME\n"
    "  rewind T   rewind until COND   forward T   snapshot NAME   restore NAME\n"
    "  reload [anyway|undo|by itself|on request] (files of the yard, values kept)\n"
    "  record on [NAMES]|off   when COND keep T before[, T after]   when none\n"
    "  keep FILE (what was ordered, as a procedure)   picture FILE (the plan, .png .svg .pdf)";

}  // namespace

const std::map<std::string, Sitting::Obey>& Sitting::own_words() {
    static const std::map<std::string, Obey> words = {{"quit", &Sitting::quit},
                                                      {"exit", &Sitting::quit},
                                                      {"help", &Sitting::help},
                                                      {"status", &Sitting::status},
                                                      {"pace", &Sitting::set_pace},
                                                      {"pause", &Sitting::pause},
                                                      {"go", &Sitting::go},
                                                      {"scan", &Sitting::scan},
                                                      {"step", &Sitting::steps},
                                                      {"rewind", &Sitting::rewind},
                                                      {"forward", &Sitting::forward},
                                                      {"snapshot", &Sitting::snapshot},
                                                      {"restore", &Sitting::restore},
                                                      {"reload", &Sitting::reload},
                                                      {"why", &Sitting::why},
                                                      {"keep", &Sitting::keep_record},
                                                      {"run", &Sitting::run_controller},
                                                      {"restart", &Sitting::restart},
                                                      {"everything", &Sitting::everything},
                                                      {"mark", &Sitting::mark},
                                                      {"measure", &Sitting::measure},
                                                      {"record", &Sitting::record},
                                                      {"when", &Sitting::when},
                                                      {"list", &Sitting::list},
                                                      {"lists", &Sitting::lists},
                                                      {"procedure", &Sitting::procedure},
                                                      {"table", &Sitting::table},
                                                      {"picture", &Sitting::picture}};
    return words;
}

const std::vector<std::string>& Sitting::words() {
    static const std::vector<std::string> all = [] {
        std::vector<std::string> out = procedure::OrderReader::verbs();
        for (const auto& [word, obey] : own_words()) {
            if (std::find(out.begin(), out.end(), word) == out.end()) out.push_back(word);
        }
        for (const char* word : {"watch", "unwatch", "show", "rules"}) out.emplace_back(word);
        std::sort(out.begin(), out.end());
        return out;
    }();
    return all;
}

Sitting::Sitting(session::Session session, Clock& clock, SittingOptions options)
    : options_(std::move(options)),
      clock_(clock),
      desk_(std::move(session), options_.watches, options_.expectations, options_.version),
      recording_(files::join_path(options_.folder, "traces")),
      pace_(options_.pace) {}

void Sitting::begin() {
    pace_from_here();
    desk_.look_at_table();
    keep_moment();
    if (options_.state != nullptr) options_.state->begin(desk_.version().fingerprint, options_.retained);
}

void Sitting::end(const std::string& why, int signal) {
    ended_by_ = signal;
    if (!why.empty()) desk_.tell({desk_.now(), why, Reply::Kind::Event, 0});
    over_ = true;
}

void Sitting::work(std::function<Done()> job) {
    jobs_.push_back({std::async(std::launch::async, std::move(job)), asker_});
}

void Sitting::take_work(bool wait) {
    for (std::size_t i = 0; i < jobs_.size();) {
        if (!wait && jobs_[i].done.wait_for(std::chrono::seconds(0)) != std::future_status::ready) {
            ++i;
            continue;
        }
        Job job = std::move(jobs_[i]);
        jobs_.erase(jobs_.begin() + static_cast<std::ptrdiff_t>(i));
        asker_ = job.asker;
        desk_.answer_to(job.asker);
        job.done.get()();
    }
}

bool Sitting::works(Asker asker) const {
    return std::any_of(jobs_.begin(), jobs_.end(), [&](const Job& j) { return j.asker == asker; });
}

void Sitting::finish() {
    take_work(true);
    for (const std::string& line : recording_.end(desk_.session()))
        desk_.tell({desk_.now(), line, Reply::Kind::Answer, 0});
    if (options_.state == nullptr) return;
    keep();
    options_.state->end();
}

void Sitting::keep() {
    if (const std::string trouble = recording_.flush(); !trouble.empty())
        desk_.tell({desk_.now(), trouble, Reply::Kind::Event, 0});
    if (options_.attended && lateness_.overruns() > overruns_said_)
        desk_.tell({desk_.now(), fmt::format("{} time steps came late", lateness_.overruns() - overruns_said_),
                    Reply::Kind::Event, 0});
    overruns_said_ = lateness_.overruns();
    if (options_.state == nullptr) return;
    options_.state->keep(record_, desk_.session(), watch_lines());
    if (const std::string trouble = options_.state->take_trouble(); !trouble.empty())
        desk_.tell({desk_.now(), trouble, Reply::Kind::Event, 0});
}

std::vector<std::string> Sitting::watch_lines() const {
    std::vector<std::string> out;
    for (const Watched& w : desk_.watched()) out.push_back("watch " + w.name + w.manner.text());
    return out;
}

std::vector<Reply> Sitting::take_replies() {
    std::vector<Reply> out = desk_.take_replies();
    for (const Reply& r : out) {
        if (r.kind == Reply::Kind::Change) record_.reaction(*r.at, r.text);
    }
    wrong_lines_ += desk_.wrong_lines() - wrong_seen_;
    failed_expectations_ += desk_.failed_expectations() - failed_seen_;
    count_from_here();
    if (!replies_.empty()) out.insert(out.begin(), replies_.begin(), replies_.end());
    replies_.clear();
    return out;
}

void Sitting::count_from_here() {
    wrong_seen_ = desk_.wrong_lines();
    failed_seen_ = desk_.failed_expectations();
}

void Sitting::say_all(const std::vector<std::string>& lines) {
    for (const std::string& line : lines) desk_.say(line);
}

// --- lines ---

void Sitting::obey(const std::string& line, int number, Asker asker) {
    line_number_ = std::max(number, 1);
    asker_ = asker;
    desk_.answer_to(asker);
    const bool moved = runs() || busy();
    obey_inner(line);
    if (!moved && (runs() || busy())) pace_from_here();
}

void Sitting::obey_inner(const std::string& line) {
    const auto [word, rest] = first_word(line);
    if (word.empty() || word.starts_with("//")) return;
    const auto own = own_words().find(word);
    if (own == own_words().end() ||
        (word == "measure" && (rest.starts_with('"') || first_word(rest).first == "from"))) {
        order(line);
    } else {
        (this->*own->second)(rest);
    }
}

void Sitting::order(const std::string& line) {
    const std::uint64_t acts = desk_.acts();
    desk_.obey(line, line_number_, asker_);
    if (desk_.acts() == acts) return;
    go_on_from_here();
    const bool waits = desk_.waits(asker_);
    if (desk_.acted()) record_.order(desk_.now(), line, asker_, waits);
    if (desk_.acted() && waits) waited_for_.push_back(asker_);
    keep_moment();
    keep();
}

void Sitting::quit(const std::string& rest) {
    const std::vector<std::string> forces = session::forces_text(desk_.session());
    if (options_.attended && !forces.empty() && base::fold(rest) != "anyway")
        return wrong(fmt::format("forces are on: {}", fmt::join(forces, "; ")), "unforce all, or quit anyway");
    over_ = true;
}

void Sitting::help(const std::string&) {
    desk_.tell({std::nullopt, kHelp, Reply::Kind::Answer, asker_});
}

void Sitting::status(const std::string&) {
    desk_.obey("status", line_number_, asker_);
    desk_.say(fmt::format("late time steps: {}; snapshots to go back to: {} from {} on, {:.1f} MB",
                          lateness_.overruns(), history_.size(),
                          base::clock_text(history_.size() > 0 ? history_.at(0) : Nanoseconds(0)),
                          static_cast<double>(history_.bytes()) / 1e6));
    if (lateness_.steps() > 0)
        desk_.say(
            fmt::format("{} steps began later than due by {} us (half of them), {} us (99 of 100), {} us (at most)",
                        lateness_.steps(), lateness_.within(0.5).count() / 1000, lateness_.within(0.99).count() / 1000,
                        lateness_.most().count() / 1000));
    for (const std::string& text : recording_.armed()) desk_.say(fmt::format("kept when it comes: {}", text));
}

void Sitting::why(const std::string& name) {
    const session::Search found = session::search(desk_.session().model(), name);
    if (!found.signal) return wrong(found.problem, found.hint);
    std::vector<procedure::Deed> deeds;
    for (const Record::Entry& e : record_.entries()) {
        if (e.kind == Record::Entry::Kind::Order) deeds.push_back({e.at, e.text});
    }
    const procedure::Cause cause = procedure::cause_of(desk_.session(), {}, deeds, name, *found.signal);
    for (const std::string& text : procedure::lines_of(cause)) desk_.say(text);
}

void Sitting::run_controller(const std::string& rest) {
    order(fmt::format("start {} warm", rest));
}

void Sitting::restart(const std::string& rest) {
    const auto [how, name] = first_word(rest);
    if (how != "cold" && how != "warm")
        return wrong(fmt::format("restart is cold or warm, not '{}'", how), "restart warm");
    order(fmt::format("start {}{}", name, how == "warm" ? " warm" : ""));
}

void Sitting::everything(const std::string& rest) {
    if (base::fold(rest) != "reset") return wrong("everything can be reset", "everything reset");
    WallWatch watch(clock_);
    desk_.reset(&watch);
    desk_.say("everything is as at power-up; faults, forces and what was done are gone");
    history_.forget_after(Nanoseconds(-1));
    for (auto& [name, kept] : snapshots_) kept.shared = Nanoseconds(-1);
    take_record({});
    waited_for_.clear();
    marks_.clear();
    future_end_ = Nanoseconds(0);
    say_all(recording_.moved(desk_.session()));
    pace_from_here();
    keep_moment();
    if (options_.state != nullptr) options_.state->begin(desk_.version().fingerprint, {});
}

// --- files ---

namespace {

/// "as done" of "procedures/as_done.proc".
std::string title_of(const std::string& path) {
    std::string out = std::filesystem::path(path).filename().string();
    out = out.substr(0, out.find('.'));
    std::replace(out.begin(), out.end(), '_', ' ');
    std::erase(out, '"');
    return out.empty() ? "kept" : out;
}

}  // namespace

void Sitting::keep_record(const std::string& path) {
    if (path.empty()) return wrong("keep needs the name of a file", "keep procedures/as_done.proc");
    if (!options_.write) return wrong("files cannot be written here");
    const std::string failure = options_.write(path, record_.procedure(title_of(path)));
    if (!failure.empty()) return wrong(failure);
    desk_.say(fmt::format("kept {}", path));
}

void Sitting::picture(const std::string& path) {
    if (path.empty()) return wrong("picture needs the name of a file", "picture plan.png");
    if (!options_.write) return wrong("files cannot be written here");
    // A picture takes longer than a step; it is drawn beside the run, of this moment.
    work([this, path, session = desk_.session()]() -> Done {
        const std::string contents = figures::draw_plan(session)->render(path);
        const std::string failure =
            contents.empty() ? fmt::format("'{}' is not a valid figure's name", path) : options_.write(path, contents);
        return [this, path, failure, none = contents.empty()] {
            if (!failure.empty()) return wrong(failure, none ? "it ends in .png, .svg or .pdf" : "");
            desk_.say(fmt::format("wrote {}", path));
        };
    });
}

void Sitting::mark(const std::string& name) {
    if (name.empty() || name.find_first_of(" \t") != std::string::npos)
        return wrong("a mark needs a name of one word", "mark before");
    marks_[base::fold(name)] = desk_.now();
    record_.remark(desk_.now(), fmt::format("mark {}", name));
    desk_.say(fmt::format("mark {}", name));
}

void Sitting::measure(const std::string& rest) {
    const std::string folded = base::fold(rest);
    const std::size_t to = folded.find(" to ");
    if (to == std::string::npos)
        return wrong("measure goes from one thing to another",
                     "measure MARK to MARK, or measure from rises(a) to falls(b) within 5 s");
    const auto a = first_word(folded.substr(0, to)).first, b = first_word(folded.substr(to + 4)).first;
    const auto from = marks_.find(a), until = marks_.find(b);
    const bool words_alone = a == folded.substr(0, to) && b == folded.substr(to + 4);
    if (words_alone && from != marks_.end() && until != marks_.end()) {
        desk_.say(fmt::format("from {} to {}: {} s", a, b, base::to_seconds(until->second - from->second)));
        return;
    }
    order(fmt::format("measure from {}", rest));  // conditions
}

void Sitting::record(const std::string& rest) {
    const auto [how, names] = first_word(rest);
    if (how == "off") {
        if (!recording_.on()) return wrong("nothing is recorded", "record on");
        return desk_.say(recording_.stop(desk_.session()));
    }
    if (how != "on") return wrong(fmt::format("record is on or off, not '{}'", how), "record on lift_*, line_run");
    if (recording_.on()) return wrong("it is recorded already", "record off");
    std::vector<trace::Channel> channels;
    const session::SessionModel& model = desk_.session().model();
    const NamesFound found = find_names(model, names, std::numeric_limits<std::size_t>::max());
    if (!found.problem.empty()) return wrong(found.problem, found.hint);
    for (const auto& [name, signal] : found.signals) channels.push_back(trace::make_channel(model, name, signal));
    if (names.empty()) channels = trace::usual_channels(model);
    const std::string said = recording_.start(desk_.session(), std::move(channels));
    if (!recording_.on()) return wrong(said);
    desk_.say(said);
}

void Sitting::when(const std::string& rest) {
    constexpr const char* kExample = "when alarm_code <> 0 keep 10 s before, 5 s after";
    const std::string folded = base::fold(rest);
    if (folded == "none") {
        recording_.disarm();
        return desk_.say("nothing is waited for any more");
    }
    const std::size_t keep = folded.rfind(" keep "),
                      before = folded.find(" before", keep == std::string::npos ? 0 : keep);
    if (keep == std::string::npos || before == std::string::npos) return wrong("name what is to be kept", kExample);
    const auto from = time_of("when", rest.substr(keep + 6, before - keep - 6));
    if (!from) return;
    Nanoseconds after{};
    std::string tail = folded.substr(before + 7);
    if (const std::size_t end = tail.find("after"); end != std::string::npos) {
        const std::size_t first = tail.find_first_not_of(" ,");
        const auto time = time_of("when", tail.substr(first, end - first));
        if (!time) return;
        after = *time;
    } else if (tail.find_first_not_of(" ,") != std::string::npos) {
        return wrong(fmt::format("'{}' is not understood behind 'before'", tail), kExample);
    }
    const std::string condition = rest.substr(0, keep);
    const std::string problem = recording_.arm(desk_.session(), condition, *from, after);
    if (!problem.empty()) return wrong(fmt::format("'{}' is not a valid condition: {}", condition, problem), kExample);
    desk_.say(fmt::format("when {} comes, {} s before it and {} s after it are kept", condition,
                          base::to_seconds(*from), base::to_seconds(after)));
}

// --- lists, procedures, tables ---

void Sitting::lists(const std::string&) {
    const std::vector<std::string> names = files::list_names(options_.folder);
    if (names.empty())
        return desk_.say("the yard has no lists; they are files lists/*.csv with tag,display,value,note");
    desk_.say(fmt::format("lists: {}", fmt::join(names, ", ")));
}

/// A file of a person's choice, or one that a yard brings along, which could be a link to anywhere.
bool Sitting::meant(const std::string& path) {
    if (options_.outside || files::lies_within(path, {options_.folder, "."})) return true;
    wrong(fmt::format("{} lies outside of the yard and of the current folder", path),
          "start with --outside when it is meant");
    return false;
}

void Sitting::list(const std::string& rest) {
    auto [name, more] = first_word(rest);
    const std::vector<std::string> known = files::list_names(options_.folder);
    const auto found =
        std::find_if(known.begin(), known.end(), [&, n = name](const auto& k) { return base::fold(k) == n; });
    if (found == known.end())
        return wrong(
            name.empty() ? "list needs a name" : fmt::format("no list is named '{}'", name),
            known.empty() ? "lists are files lists/*.csv with tag,display,value,note" : base::name_hint(name, known));
    if (!meant(files::list_path(options_.folder, *found))) return;
    base::Diagnostics diagnostics;
    const std::vector<ListedTag> rows =
        checked_list(desk_.session().model(), files::list_path(options_.folder, *found), diagnostics);
    if (diagnostics.has_errors())
        return wrong(fmt::format("list {} cannot be read\n{}", *found, without_breaks(diagnostics.render())));
    const auto [verb, tag] = first_word(more);
    if (verb.empty()) {
        desk_.say(fmt::format("list {}", *found));
        list_ = *found;
        list_values_.clear();
        for (const auto& [r, written] : rows) {
            if (!r.value.empty()) list_values_[base::fold(r.tag)] = r.value;
        }
        for (const auto& [r, written] : rows)
            desk_.obey(fmt::format("watch {} {}", r.tag, r.display), line_number_, asker_);
        return;
    }
    if (verb != "write") return wrong(fmt::format("a list is watched or written, not '{}'", verb), "list NAME write");
    int written = 0;
    for (const auto& [r, value] : rows) {
        if (value.empty() || (!tag.empty() && base::fold(tag) != base::fold(r.tag))) continue;
        order(fmt::format("write {} = {}", r.tag, value));
        ++written;
    }
    if (written == 0)
        wrong(tag.empty() ? fmt::format("list {} has no values to write", *found)
                          : fmt::format("list {} has no value for '{}'", *found, tag));
}

void Sitting::procedure(const std::string& text) {
    const bool quoted = text.size() > 1 && text.starts_with('"') && text.ends_with('"');  // as it stands in its file
    const std::string name = quoted ? text.substr(1, text.size() - 2) : text;
    std::shared_ptr<const procedure::Book> book = desk_.version().book;
    std::vector<std::size_t> found;
    std::vector<std::string> known;
    const std::string wanted = base::fold(name);
    if (book != nullptr) {
        for (std::size_t p = 0; p < book->procedures.size(); ++p) {
            const auto& model = book->procedures[p];
            known.push_back(model.name);
            const std::string file = std::filesystem::path(model.place.source->path).stem().string();
            if (base::fold(model.name) == wanted || base::fold(file) == wanted) found.push_back(p);
        }
    }
    std::error_code ignored;
    if (found.empty() && std::filesystem::is_regular_file(name, ignored)) {
        if (!meant(name)) return;
        base::Diagnostics diagnostics;
        if (const auto source = files::read_source(name, {}, diagnostics))
            book = procedure::read_book(desk_.session().model(), {source}, diagnostics);
        if (diagnostics.has_errors() || book == nullptr)
            return wrong(fmt::format("the procedure cannot be read\n{}", without_breaks(diagnostics.render())));
        for (std::size_t p = 0; p < book->procedures.size(); ++p) found.push_back(p);
    }
    if (found.empty()) return wrong(fmt::format("no procedure is named '{}'", name), base::name_hint(name, known));
    if (found.size() > 1) {
        std::vector<std::string> names;
        names.reserve(found.size());
        for (const std::size_t p : found) names.push_back(book->procedures[p].name);
        return wrong(fmt::format("'{}' has several procedures; name one", name),
                     fmt::format("{}", fmt::join(names, ", ")));
    }
    follow(book, found[0]);
}

/// A procedure of a book from here; what it does is recorded as orders.
void Sitting::follow(const std::shared_ptr<const procedure::Book>& book, std::size_t number) {
    go_on_from_here();
    desk_.follow_procedure(book, number, asker_);
    for (const std::string& act : desk_.take_acts()) record_.order(desk_.now(), act, 0);
    keep_moment();
}

void Sitting::table(const std::string& path) {
    if (!meant(path)) return;
    base::Diagnostics diagnostics;
    std::shared_ptr<const procedure::Book> book;
    if (const auto source = files::read_source(path, {}, diagnostics))
        book = table_orders(desk_.session().model(), source, diagnostics);
    if (diagnostics.has_errors() || book == nullptr)
        return wrong(fmt::format("the table cannot be read\n{}", without_breaks(diagnostics.render())));
    follow(book, 0);
}

}  // namespace vyard::live
