#include <fmt/format.h>

#include "cli/command.hpp"
#include "cli/interrupt.hpp"
#include "cli/linked.hpp"
#include "cli/logic_units.hpp"
#include "cli/progress.hpp"
#include "core/campaign/campaign.hpp"
#include "core/procedure/procedure.hpp"
#include "core/trace/trace.hpp"
#include "files/text_file.hpp"
#include "report/coverage.hpp"
#include "report/verdicts.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

/// The logic with marks of what no procedure exercised, as a PDF.
std::string coverage_figure(const session::Session& session, const std::vector<logic::Coverage>& coverages) {
    figures::LogicFigure what;
    what.coverage = &coverages;
    return figures::draw_logic(session, *units_for(session.model(), "", false), what)->render("coverage.pdf");
}

}  // namespace

CommandLine prove_line() {
    CommandLine line("prove [YARD] [PROCEDURE...] [options]",
                     "Runs procedures, each from a cold start, with all rules watched in every scan. Exit code 1 when "
                     "a verdict failed.",
                     "vyard prove examples/glaze-line");
    line.add_yard_options();
    line.add_run_options();
    line.add_link_options();
    add_linked_options(line);
    line.options().add_options()("procedure,p", po::value<std::vector<std::string>>()->composing()->value_name("NAME"),
                                 "this procedure, or all of a file, as words behind YARD do; may be repeated")(
        "do", po::value<std::vector<std::string>>()->composing()->value_name("ORDER"),
        "an order to carry out before each procedure; may be repeated")(
        "coverage",
        "say what of the logic was never exercised; with --out also coverage.json, coverage.lcov and coverage.pdf")(
        "json", "verdicts as JSON on standard output")("failed", "list only what did not pass")(
        "out", po::value<std::string>()->value_name("FOLDER"), "write verdicts.txt, verdicts.json and junit.xml there");
    line.takes_words(1000);
    return line;
}

int prove_command(const CommandLine& line) {
    // Inside a yard its procedures can be named at once; a procedure file says by its place which yard is meant.
    const bool file_named = names_procedure_file(line.word(0));
    const bool yard_named =
        !file_named && (line.words().empty() || names_yard(line.word(0)) || files::find_yard(".").empty());
    const auto loaded = load(line, false, yard_named || file_named ? 0 : line.words().size());
    if (!loaded) return kWrongCall;
    if (loaded->book == nullptr) {
        if (line.words().size() > (yard_named ? 1U : 0U) || line.has("procedure"))
            return wrong_call("the yard has no procedures", "[yard] procedures = [\"procedures/*.proc\"]");
        fmt::print(stderr, "remark: the yard has no procedures, so nothing was proved\n");
        return kWell;
    }
    std::vector<std::size_t> chosen;
    for (std::size_t i = yard_named ? 1 : 0; i < line.words().size(); ++i) {
        const auto found = find_procedures(*loaded, line.word(i));
        if (found.empty()) return kWrongCall;
        chosen.insert(chosen.end(), found.begin(), found.end());
    }
    for (const std::string& name : line.list("procedure")) {
        const auto found = find_procedures(*loaded, name);
        if (found.empty()) return kWrongCall;
        chosen.insert(chosen.end(), found.begin(), found.end());
    }
    std::shared_ptr<const procedure::Book> orders;
    if (line.has("do") && (orders = read_orders(line, *loaded->yard.model)) == nullptr) return kWrongCall;
    if (chosen.empty()) {
        for (std::size_t i = 0; i < loaded->book->procedures.size(); ++i) chosen.push_back(i);
    }
    std::vector<std::string> results;
    for (const char* name :
         {"verdicts.txt", "verdicts.json", "junit.xml", "coverage.json", "coverage.lcov", "coverage.pdf"}) {
        if (line.has("out")) results.push_back(files::join_path(line.text("out"), name));
    }
    for (const std::string& file : linked_results(line)) results.push_back(file);
    if (const auto refused = refuse_outputs(loaded->yard.read_from, results)) return *refused;
    std::vector<procedure::ProcedureVerdict> verdicts;
    const bool covered = line.has("coverage");
    std::optional<trace::CoverageWatch> coverage;
    std::optional<campaign::ProofCoverage> proof;
    if (covered) {
        coverage.emplace(*loaded->yard.model);
        proof.emplace(*loaded->yard.model, campaign::find_alarms(*loaded->yard.model));
    }
    const Interrupt interrupt;
    int exit = kWell;
    const auto linked = Linked::open(
        line, *loaded, [&] { return interrupt.come(); }, exit);
    if (linked == nullptr) return exit;
    const session::Session fresh(loaded->yard.model);
    std::optional<Progress> progress(std::in_place, line);
    for (std::size_t n = 0; n < chosen.size(); ++n) {
        const std::size_t i = chosen[n];
        if (interrupt.come()) break;  // what was not begun has no verdict
        session::Session session =
            linked->partner() == nullptr ? fresh : session::Session(loaded->yard.model, nullptr, linked->partner());
        procedure::TableCheck table(loaded->yard.expectations);
        const procedure::Observer observer = [&](const session::Session& s) {
            if (!table.empty()) table.observe(s);
            if (covered) coverage->observe(s);
            if (covered) proof->observe(s);
            progress->show(static_cast<double>(n) / static_cast<double>(chosen.size()),
                           loaded->book->procedures[i].name);
        };
        if (orders != nullptr) {
            auto before = procedure::run_procedure(orders, 0, session, observer, [&] { return interrupt.come(); });
            before.name = fmt::format("--do, before {}", loaded->book->procedures[i].name);
            if (before.verdict != procedure::Verdict::Passed) {
                verdicts.push_back(std::move(before));
                continue;
            }
        }
        verdicts.push_back(
            procedure::run_procedure(loaded->book, i, session, observer, [&] { return interrupt.come(); }));
        if (!table.empty()) table.add_to(verdicts.back(), session);
        if (covered) proof->end(verdicts.back());
    }
    progress.reset();
    if (!linked->close(line)) return kOurFault;
    const std::string json = report::verdicts_json(loaded->yard.name, verdicts);
    std::vector<procedure::ProcedureVerdict> listed = verdicts;
    if (line.has("failed") || line.quiet())
        std::erase_if(listed, [](const auto& v) { return v.verdict == procedure::Verdict::Passed; });
    if (line.has("json"))
        fmt::print("{}", report::verdicts_json(loaded->yard.name, listed));
    else if (!listed.empty() || !(line.has("failed") || line.quiet()))
        fmt::print("{}", report::verdicts_text(listed, line.colours_output()));
    if (line.has("failed") && !line.quiet() && !line.has("json"))
        fmt::print("{} of {} passed\n", verdicts.size() - listed.size(), number_of(verdicts.size(), "procedure"));
    const session::SessionModel& model = *loaded->yard.model;
    if (covered && !line.has("json"))
        fmt::print("\n{}{}", report::coverage_text(model, coverage->coverages()), report::proof_text(*proof));
    if (line.has("out")) {
        const std::string folder = line.text("out");
        const bool written =
            write_result(line, files::join_path(folder, "verdicts.txt"), report::verdicts_text(verdicts, false)) &&
            write_result(line, files::join_path(folder, "verdicts.json"), json) &&
            write_result(line, files::join_path(folder, "junit.xml"), report::junit_xml(loaded->yard.name, verdicts));
        if (!written) return kOurFault;
        if (covered && !(write_result(line, files::join_path(folder, "coverage.json"),
                                      report::coverage_json(model, coverage->coverages(), *proof)) &&
                         write_result(line, files::join_path(folder, "coverage.lcov"),
                                      report::coverage_lcov(model, coverage->coverages())) &&
                         write_result(line, files::join_path(folder, "coverage.pdf"),
                                      coverage_figure(fresh, coverage->coverages()))))
            return kOurFault;
    }
    return interrupt.exit_code(report::all_passed(verdicts) ? kWell : kFailed);
}

}  // namespace vyard::cli
