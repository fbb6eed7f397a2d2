#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <charconv>
#include <filesystem>
#include <map>

#include "cli/command.hpp"
#include "core/procedure/procedure.hpp"
#include "core/session/session.hpp"
#include "files/tag_file.hpp"
#include "files/text_file.hpp"
#include "live/yard_state.hpp"
#include "report/address_page.hpp"
#include "report/cross_reference.hpp"
#include "report/table.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

/// What shares bits with which tag: by controller and variable.
using Sharings = std::map<std::pair<int, int>, std::string>;

Sharings sharings_of(const session::SessionModel& model) {
    Sharings out;
    for (std::size_t c = 0; c < model.controllers.size(); ++c) {
        const auto located = logic::located_tags(*model.controllers[c].program);
        for (const logic::Located& l : located) {
            if (l.variable >= 0 && !l.shared.empty())
                out[{static_cast<int>(c), l.variable}] = logic::sharing_text(located, l);
        }
    }
    return out;
}

std::string sharing_of(const Sharings& sharings, const session::TagRow& row) {
    const auto found = sharings.find({row.controller, row.variable});
    return found == sharings.end() ? "" : found->second;
}

report::Table tag_table(const session::Session& session, session::Display display) {
    report::Table table;
    table.columns = {"controller", "tag",   "type",    "address", "shares", "initial",    "kept",
                     "at rest",    "point", "scaling", "reads",   "writes", "description"};
    const Sharings sharings = sharings_of(session.model());
    const bool several = session.model().controllers.size() > 1;
    for (const session::TagRow& r : session::tag_rows(session)) {
        table.rows.push_back({several ? base::at(session.model().controllers, r.controller).name : "", r.tag->path,
                              r.tag->type_text, r.tag->address.area == logic::Area::None ? "" : r.tag->address.text(),
                              sharing_of(sharings, r), r.initial, session::keeping_text(*r.tag),
                              session::displayed(session, r, display), session::joins_text(session.model(), r),
                              r.joins.empty() ? "" : r.joins.front()->scaling_text, std::to_string(r.reads),
                              std::to_string(r.writes), r.tag->description});
    }
    return table;
}

/// What the inputs read with the machine idle; a TRUE one is likely wired normally closed.
/// `first`: as it was after the first scan.
report::Table rest_table(const session::Session& session, const session::Session& first) {
    report::Table table;
    table.columns = {"input", "address", "at rest", "point", "remark"};
    std::string before;
    const auto add = [&](const session::TagRow& r, const std::string& part, const std::string& now, bool boolean,
                         const std::string& point) {
        table.rows.push_back({r.tag->path + part, r.tag->address.area == logic::Area::None ? "" : r.tag->address.text(),
                              now, point,
                              std::string(boolean && now == "TRUE" ? "TRUE with the machine idle" : "") + before});
    };
    const auto early = session::tag_rows(first);
    std::size_t row = 0;
    for (const session::TagRow& r : session::tag_rows(session)) {
        const std::string& was = early[row++].now;  // rows are the same, in the same order
        before = was == r.now ? "" : fmt::format("{}{} after the first scan", r.now == "TRUE" ? ", " : "", was);
        for (const wiring::Join* j : r.joins) {
            const plant::PointModel& p = base::at(session.model().plant->points, j->point);
            if (p.direction != plant::PointDirection::Input) continue;
            const bool whole = j->bit < 0 || r.tag->bit >= 0;
            const std::uint32_t bit = (j->offset - r.tag->offset) * 8 + static_cast<std::uint32_t>(std::max(j->bit, 0));
            const bool on =
                !whole &&
                (session::bits(session, session::signal_of_variable(session.model(), r.controller, r.variable)) >> bit &
                 1U) != 0;
            add(r, whole ? "" : fmt::format(".%X{}", bit),
                whole ? r.now
                : on  ? "TRUE"
                      : "FALSE",
                !whole || r.tag->type == logic::Elementary::Bool, p.name);
        }
        for (const wiring::Jumper* j : r.fed_by)
            add(r, "", r.now, r.tag->type == logic::Elementary::Bool,
                "from " + session::source_text(session.model(), *j));
    }
    return table;
}

/// Start conditions that are not met yet.
void print_held_off(const session::Session& session) {
    const auto held = procedure::held_off(session);
    if (held.empty()) return;
    fmt::print("\nFALSE with the machine idle, and which conditions are not met\n");
    std::size_t width = 0;
    for (const procedure::HeldOff& h : held) width = std::max(width, h.tag.size());
    for (const procedure::HeldOff& h : held)
        fmt::print("  {:<{}}  {}   ({})\n", h.tag, width, fmt::join(h.missing, "; "), procedure::where_text(h));
}

/// How the values at rest came about, and what of the logic stopped on the way.
void print_settling(const session::Session& session, const std::optional<base::Nanoseconds>& took) {
    if (!took) {
        fmt::print("\nat rest: the inputs did not settle within 30 s; these are the values at the end of that\n");
    } else if (took->count() > 0) {
        fmt::print("\nat rest: after {}, when the last input had changed\n", base::time_text(*took));
    }
    for (std::size_t c = 0; c < session.model().controllers.size(); ++c) {
        const std::string fault =
            controller::fault_text(session.model().controllers[c], session.controller(static_cast<int>(c)));
        if (!fault.empty())
            fmt::print("\ncontroller {} stopped by itself at {}: {}\n", session.model().controllers[c].name,
                       base::clock_text(session.controller(static_cast<int>(c)).fault.time), fault);
    }
}

int cross_reference(const session::Session& session, const std::string& name) {
    const std::string text = report::cross_reference(session, name);
    if (!text.empty()) {
        fmt::print("{}", text);
        return kWell;
    }
    std::vector<std::string> known;
    for (const session::TagRow& r : session::tag_rows(session)) known.push_back(r.tag->path);
    return wrong_call(fmt::format("no tag is named '{}'", name), base::name_hint(name, known));
}

const logic::Program* program_of(const session::SessionModel& model, const std::string& name) {
    if (name.empty()) return model.controllers[0].program.get();
    for (const auto& c : model.controllers) {
        if (base::fold(c.name) == base::fold(name)) return c.program.get();
    }
    std::vector<std::string> known;
    for (const auto& c : model.controllers) known.push_back(c.name);
    wrong_call(fmt::format("no controller is named '{}'", name), base::name_hint(name, known));
    return nullptr;
}

struct Wanted {
    int count = 1, bytes = 0;
    logic::Area area = logic::Area::Input;
};

/// "3 bool inputs", "word output", "2 dword memory".
std::optional<Wanted> read_wanted(const std::string& text) {
    Wanted wanted;
    bool type_seen = false, area_seen = false;
    std::string word;
    for (const char c : text + " ") {
        if (c != ' ') {
            word += c;
            continue;
        }
        if (word.empty()) continue;
        int number = 0;
        const auto [end, failure] = std::from_chars(word.data(), word.data() + word.size(), number);
        const std::string folded = base::fold(word);
        const std::string single = folded.ends_with("s") ? folded.substr(0, folded.size() - 1) : folded;
        if (failure == std::errc() && end == word.data() + word.size() && number >= 1 && number <= 10'000) {
            wanted.count = number;
        } else if (single == "input" || single == "output" || single == "memory") {
            area_seen = true;
            wanted.area = single == "input"    ? logic::Area::Input
                          : single == "output" ? logic::Area::Output
                                               : logic::Area::Memory;
        } else if (const auto type = logic::find_type(single); type && logic::is_scalar(*type)) {
            type_seen = true;
            wanted.bytes = *type == logic::Elementary::Bool ? 0 : logic::type_size(*type);
        } else {
            return std::nullopt;
        }
        word.clear();
    }
    return type_seen && area_seen ? std::optional(wanted) : std::nullopt;
}

int propose_addresses(const logic::Program& program, const std::string& text) {
    const auto wanted = read_wanted(text);
    if (!wanted)
        return wrong_call(fmt::format("'{}' names no addresses", text),
                          "a count, a type, and inputs, outputs or memory: \"3 bool inputs\"");
    for (const logic::Address& a :
         logic::next_free(logic::located_tags(program), wanted->area, wanted->bytes, wanted->count))
        fmt::print("{}\n", a.text());
    return kWell;
}

int show_free(const logic::Program& program) {
    const auto located = logic::located_tags(program);
    report::Table table;
    table.columns = {"area", "free from", "to", "bits", "bytes", "words"};
    for (const auto& [area, letter] : {std::pair(logic::Area::Input, 'I'), std::pair(logic::Area::Output, 'Q'),
                                       std::pair(logic::Area::Memory, 'M')}) {
        for (const logic::FreeRun& run : logic::free_runs(located, area)) {
            const std::uint32_t last = run.first_bit + run.bits - 1;
            const auto whole = [&](std::uint32_t bits) {
                const std::uint32_t first = (run.first_bit + bits - 1) / bits * bits, end = (last + 1) / bits * bits;
                return end > first ? (end - first) / bits : 0U;
            };
            table.rows.push_back(
                {fmt::format("%{}", letter), fmt::format("%{}X{}.{}", letter, run.first_bit / 8, run.first_bit % 8),
                 run.open ? "the end" : fmt::format("%{}X{}.{}", letter, last / 8, last % 8),
                 run.open ? "many" : std::to_string(run.bits), run.open ? "many" : std::to_string(whole(8)),
                 run.open ? "many" : std::to_string(whole(16))});
        }
    }
    fmt::print("{}", report::table_text(table));
    return kWell;
}

/// Declarations for the tags of a list that the logic lacks, as a file of its own.
int import_list(const CommandLine& line, const logic::Program& program) {
    base::Diagnostics diagnostics;
    const base::SourcePtr source = files::read_source(line.text("import"), {}, diagnostics);
    std::vector<files::ListedTag> fresh;
    std::size_t listed = 0;
    if (source != nullptr) {
        const auto tags = files::read_tag_list(source, diagnostics);
        listed = tags.size();
        fresh = files::new_tags(tags, program, diagnostics);
    }
    diagnostics.sort();
    show_diagnostics(line, diagnostics);
    if (diagnostics.has_errors()) return kWrongCall;
    if (!line.quiet())
        fmt::print("{} in the list: {} there already, {} new\n", number_of(listed, "tag"), listed - fresh.size(),
                   fresh.size());
    if (fresh.empty()) return kWell;
    if (!line.has("out")) {
        fmt::print("{}", files::declarations_of(fresh));
        return kWell;
    }
    std::string why;
    if (files::read_text(line.text("out"), why))
        return wrong_call(fmt::format("'{}' is there already; nothing is overwritten", line.text("out")),
                          "name a new file, such as logic/more_tags.st");
    return write_result(line, line.text("out"), files::declarations_of(fresh)) ? kWell : kOurFault;
}

/// The RETAIN variables of the logic, each with what the yard's live sessions left in it.
report::Table retained_table(const session::Session& session, const std::vector<live::RetainedRow>& stored) {
    report::Table table;
    table.columns = {"controller", "variable", "type", "value", "at start"};
    std::vector<live::RetainedRow> left = stored;
    for (const live::RetainedRow& now : live::retained_rows(session)) {
        const auto found = std::find_if(left.begin(), left.end(), [&](const live::RetainedRow& s) {
            return base::fold(s.controller) == base::fold(now.controller) &&
                   base::fold(s.value.path) == base::fold(now.value.path);
        });
        table.rows.push_back({now.controller, now.value.path, now.value.type,
                              found == left.end() ? now.value.value : found->value.value, now.value.value});
        if (found != left.end()) left.erase(found);
    }
    for (const live::RetainedRow& gone : left)
        table.rows.push_back(
            {gone.controller, gone.value.path, gone.value.type, gone.value.value, "no such variable now"});
    return table;
}

std::optional<std::vector<live::RetainedRow>> read_rows(const CommandLine& line, const std::string& path) {
    base::Diagnostics diagnostics;
    std::vector<live::RetainedRow> rows;
    if (const auto source = files::read_source(path, {}, diagnostics)) rows = live::read_retained(source, diagnostics);
    show_diagnostics(line, diagnostics);
    if (diagnostics.has_errors()) return std::nullopt;
    return rows;
}

/// Puts a list of retained values in the place of what the yard has; one value that does not fit, and nothing is.
int put_retained(const CommandLine& line, const files::Yard& yard, session::Session session) {
    const auto rows = read_rows(line, line.text("put-retained"));
    if (!rows) return kWrongCall;
    std::string why;
    const auto state = live::YardState::open(yard.folder, why);  // a session that runs has values of its own
    if (state == nullptr) return wrong_call(why, "end it first");
    const std::vector<std::string> wrong = live::put_retained(session, *rows);
    for (const std::string& problem : wrong) fmt::print(stderr, "error: {}\n", problem);
    if (!wrong.empty()) return kWrongCall;
    return write_result(line, live::retained_path(yard.folder), live::retained_text(live::retained_rows(session)))
               ? kWell
               : kOurFault;
}

int shape(const CommandLine& line, report::Table& table) {
    for (const std::string& filter : line.list("filter")) {
        const std::size_t equals = filter.find('=');
        const int column = table.column(filter.substr(0, equals));
        if (equals == std::string::npos)
            return wrong_call(fmt::format("'{}' is not a valid filter", filter),
                              fmt::format("COLUMN=TEXT; columns: {}", fmt::join(table.columns, ", ")));
        if (column < 0)
            return wrong_call(fmt::format("there is no column '{}'", filter.substr(0, equals)),
                              base::name_hint(filter.substr(0, equals), table.columns));
        table.keep(column, filter.substr(equals + 1));
    }
    if (line.has("sort")) {
        const int column = table.column(line.text("sort"));
        if (column < 0)
            return wrong_call(fmt::format("there is no column '{}'", line.text("sort")),
                              base::name_hint(line.text("sort"), table.columns));
        table.sort_by(column);
    }
    return kWell;
}

}  // namespace

int print_table(const CommandLine& line, const report::Table& table) {
    const std::string text = line.has("json")  ? report::table_json(table)
                             : line.has("csv") ? report::table_csv(table)
                                               : report::table_text(table);
    if (line.has("out")) return write_result(line, line.text("out"), text) ? kWell : kOurFault;
    fmt::print("{}", text);
    return kWell;
}

CommandLine tags_line() {
    CommandLine line("tags [YARD] [options]",
                     "Lists every tag: type, address, joined point, its value with the machine at rest (once it "
                     "has settled), and\nhow often the logic reads and writes it. Finds free addresses, shows where a "
                     "tag is used, reads and writes lists.",
                     "vyard tags examples/glaze-line --filter type=BOOL --sort address");
    line.add_yard_options();
    const auto text = [](const char* name) { return po::value<std::string>()->value_name(name); };
    line.options().add_options()("sort", text("COLUMN"), "by a column")(
        "filter", po::value<std::vector<std::string>>()->composing()->value_name("COLUMN=TEXT"),
        "only rows that hold TEXT there; may be repeated")(
        "as", text("FORM"), "values as plain, decimal, signed, hex, binary, time (of milliseconds) or text")(
        "cross", text("NAME"),
        "where a tag or an address is declared, joined, read and written, with the lines; also CONTROLLER.TAG")(
        "at-rest", "what each joined input reads with the machine idle")(
        "addresses", "the areas byte by byte: taken, free, taken twice")("free", "free addresses, range by range")(
        "next", text("WHAT"), "propose addresses: \"3 bool inputs\", \"1 word output\"")(
        "controller", text("NAME"), "whose addresses; default the first")(
        "import", text("FILE.csv"), "declare the tags of a list that the logic lacks; conflicts are errors")(
        "retained", "the RETAIN variables, with what live sessions left in them (.vyard/retained.csv)")(
        "put-retained", text("FILE.csv"), "put such a list back, for the next live session")("csv", "as CSV")(
        "json", "as JSON")("out", text("FILE"), "write to FILE; of --import a new file of logic");
    line.one_of({"cross", "next", "free", "import", "addresses", "put-retained", "retained", "at-rest"});
    line.one_of({"csv", "json"});
    line.apart({"cross", "next", "free", "import", "addresses", "put-retained"},
               {"csv", "json", "sort", "filter", "as"});
    line.apart({"cross", "next", "free", "addresses", "put-retained"}, {"out"});
    line.apart({"as"}, {"at-rest", "retained"});
    line.needs("controller", {"next", "free", "import", "addresses"});
    line.takes_words(1);
    return line;
}

int tags_command(const CommandLine& line) {
    const auto display = session::find_display(line.has("as") ? line.text("as") : "plain");
    if (!display)
        return wrong_call(fmt::format("'{}' is not a form of values", line.text("as")),
                          base::name_hint(line.text("as"), session::display_names()));
    const auto loaded = load(line);
    if (!loaded) return kWrongCall;
    if (line.has("out") && !line.has("import")) {  // which says itself what is there
        if (const auto refused = refuse_outputs(loaded->yard.read_from, {line.text("out")})) return *refused;
    }
    const session::Session session(loaded->yard.model);
    const logic::Program* program = program_of(*loaded->yard.model, line.text("controller"));
    if (program == nullptr) return kWrongCall;
    if (line.has("cross")) return cross_reference(session, line.text("cross"));
    if (line.has("next")) return propose_addresses(*program, line.text("next"));
    if (line.has("free")) return show_free(*program);
    if (line.has("import")) return import_list(line, *program);
    if (line.has("addresses")) {
        fmt::print("{}", report::address_page(*program));
        return kWell;
    }
    if (line.has("put-retained")) return put_retained(line, loaded->yard, session);
    if (line.has("retained")) {
        std::error_code ignored;
        const std::string path = live::retained_path(loaded->yard.folder);
        std::optional<std::vector<live::RetainedRow>> stored(std::in_place);
        if (std::filesystem::exists(path, ignored) && !(stored = read_rows(line, path))) return kWrongCall;
        report::Table table = retained_table(session, *stored);
        if (const int wrong = shape(line, table)) return wrong;
        return print_table(line, table);
    }
    session::Session settled = session;
    const auto took = session::settle(settled);
    report::Table table = line.has("at-rest") ? rest_table(settled, session) : tag_table(settled, *display);
    if (const int wrong = shape(line, table)) return wrong;
    if (const int failed = print_table(line, table)) return failed;
    if (line.has("json") || line.has("csv") || line.has("out") || line.quiet()) return kWell;
    print_settling(settled, took);
    if (line.has("at-rest")) print_held_off(settled);
    return kWell;
}

}  // namespace vyard::cli
