#include <fmt/chrono.h>
#include <fmt/format.h>
#include <poll.h>
#include <unistd.h>

#include <array>
#include <chrono>
#include <cstdio>
#include <filesystem>

#include "cli/command.hpp"
#include "cli/interrupt.hpp"
#include "cli/linked.hpp"
#include "cli/progress.hpp"
#include "files/checkout_file.hpp"
#include "files/text_file.hpp"
#include "report/checkout_page.hpp"

namespace vyard::cli {

namespace po = boost::program_options;

namespace {

using procedure::CheckoutVerdict;
using report::SignedLine;

std::string today() {
    return fmt::format("{:%Y-%m-%d}",
                       fmt::localtime(std::chrono::system_clock::to_time_t(std::chrono::system_clock::now())));
}

/// A kept line that is still of this join takes the place of one that was not tried now.
bool same_wire(const files::KeptLine& kept, const procedure::CheckoutLine& line) {
    return kept.point == line.point && kept.tag == line.tag && kept.address == line.address &&
           kept.scaling == line.scaling && (kept.direction == "in") == line.input;
}

SignedLine from_kept(const files::KeptLine& kept, procedure::CheckoutLine line) {
    line.verdict = kept.verdict == "passed"   ? CheckoutVerdict::Passed
                   : kept.verdict == "failed" ? CheckoutVerdict::Failed
                                              : CheckoutVerdict::NotTried;
    line.probes = {{kept.given, kept.expected, kept.seen, line.verdict == CheckoutVerdict::Passed}};
    line.moved = kept.moved;
    line.remark = kept.remark;
    return {std::move(line), kept.date, kept.by};
}

struct Plan {
    std::string only;  ///< Part of a tag's, point's or device's name, folded.
    bool go_on = false;
    std::vector<files::KeptLine> kept;

    bool names(const procedure::CheckoutLine& line) const {
        return base::fold(line.tag).find(only) != std::string::npos ||
               base::fold(line.point).find(only) != std::string::npos;
    }
    const files::KeptLine* find(const procedure::CheckoutLine& line) const {
        const auto found =
            std::find_if(kept.begin(), kept.end(), [&](const files::KeptLine& k) { return same_wire(k, line); });
        return found == kept.end() ? nullptr : &*found;
    }
    bool tries(const procedure::CheckoutLine& line) const {
        const files::KeptLine* before = find(line);
        return names(line) && !(go_on && before != nullptr && before->verdict == "passed");
    }
};

/// Lines typed on standard input, without holding up what goes on meanwhile.
class Typed {
  public:
    std::optional<std::string> line(base::Nanoseconds longest) {
        pollfd waiting{STDIN_FILENO, POLLIN, 0};
        const auto ms = std::chrono::ceil<std::chrono::milliseconds>(std::chrono::nanoseconds(longest.count()));
        if (!over_ && ::poll(&waiting, 1, static_cast<int>(ms.count())) > 0) {
            std::array<char, 256> part{};
            const ssize_t got = ::read(STDIN_FILENO, part.data(), part.size());
            if (got > 0) text_.append(part.data(), static_cast<std::size_t>(got));
            over_ = got <= 0;
        }
        const std::size_t end = text_.find('\n');
        if (end == std::string::npos) return std::nullopt;
        std::string out(base::trimmed(text_.substr(0, end)));
        text_.erase(0, end + 1);
        return out;
    }
    bool over() const { return over_ && text_.find('\n') == std::string::npos; }

  private:
    std::string text_;
    bool over_ = false;
};

std::vector<SignedLine> work_through(const session::SessionModelPtr& model, const Plan& plan, const std::string& by,
                                     const Interrupt& interrupt, Progress* progress, procedure::FarEnd* far,
                                     int& tried) {
    std::vector<SignedLine> out;
    const std::string date = today();
    const auto all = static_cast<double>(model->wiring.inputs.size() + model->wiring.outputs.size());
    double looked_at = 0;
    const auto wanted = [&](const procedure::CheckoutLine& line) {
        if (progress != nullptr) progress->show(std::min(looked_at++ / all, 1.0), line.point);
        return plan.tries(line) && !interrupt.come();
    };
    for (procedure::CheckoutLine& line : procedure::check_out(model, wanted, far)) {
        const files::KeptLine* before = plan.find(line);
        const bool cut_off = interrupt.come() && line.verdict == CheckoutVerdict::NotTried && before != nullptr;
        if (plan.tries(line) && !cut_off) {
            const bool was_tried = line.verdict != CheckoutVerdict::NotTried;
            tried += was_tried ? 1 : 0;
            out.push_back({std::move(line), was_tried ? date : "", was_tried ? by : ""});
        } else if (before != nullptr) {
            out.push_back(from_kept(*before, std::move(line)));
        } else {
            out.push_back({std::move(line), "", ""});
        }
    }
    return out;
}

/// With controllers elsewhere a person is asked, on standard error.
std::vector<SignedLine> worked_through(const CommandLine& line, const Loaded& loaded, const Linked& linked,
                                       const Plan& plan, const Interrupt& interrupt, int& tried) {
    const session::SessionModelPtr& model = loaded.yard.model;
    if (!session::any_elsewhere(*model)) {
        Progress progress(line, 1U);
        return work_through(model, plan, line.text("by"), interrupt, &progress, nullptr, tried);
    }
    Typed typed;
    session::Session session(model, nullptr, linked.partner());
    procedure::FarEnd far(session, {[](const std::string& text) {
                                        fmt::print(stderr, "{}", text);
                                        std::fflush(stderr);
                                    },
                                    [&](base::Nanoseconds longest) { return typed.line(longest); },
                                    [&] { return typed.over(); }, [&] { return interrupt.come(); }});
    return work_through(model, plan, line.text("by"), interrupt, nullptr, &far, tried);
}

/// For a terminal: what was seen is said only where it is not what was expected.
report::Table shortened(report::Table table) {
    const auto expected = static_cast<std::size_t>(table.column("expected"));
    const auto seen = static_cast<std::size_t>(table.column("seen"));
    for (auto& row : table.rows) {
        if (row[seen] == row[expected]) row[seen].clear();
    }
    return table;
}

int count(const std::vector<SignedLine>& lines, CheckoutVerdict verdict) {
    return static_cast<int>(
        std::count_if(lines.begin(), lines.end(), [&](const SignedLine& l) { return l.line.verdict == verdict; }));
}

}  // namespace

CommandLine checkout_line() {
    CommandLine line(
        "checkout [YARD] [options]",
        "Walks every joined point: puts values on each input at the plant and watches the tag, forces each "
        "output tag and\nwatches the plant and what moves; numbers at 0, 25, 50, 75 and 100 % of their range. A line "
        "fails when a value does not\narrive, and when its contact, range, bytes, names or what moves are not as "
        "description and note say. Of a controller that is executed elsewhere a person there is asked, or the\ntags "
        "that repeat its inputs ('echo' of its link). With --keep "
        "the list stays in the yard\n(checkout.csv), so that it can go on another day.",
        "vyard checkout examples/glaze-line --only clamp");
    line.add_yard_options();
    line.options().add_options()("here", "of a controller that is executed elsewhere: with the logic of stand_in");
    line.add_link_options();
    add_linked_options(line, false);
    line.options().add_options()("only", po::value<std::string>()->value_name("TEXT"),
                                 "only points and tags whose name holds TEXT")("keep", "keep the list in the yard")(
        "continue", "leave out what passed before; implies --keep")(
        "by", po::value<std::string>()->value_name("NAME"), "who signs for it")("csv", "as CSV")("json", "as JSON")(
        "out", po::value<std::string>()->value_name("FOLDER"), "write checkout.csv and checkout.html there");
    line.one_of({"csv", "json", "out"});
    line.takes_words(1);
    return line;
}

int checkout_command(const CommandLine& line) {
    const auto loaded = load(line);
    if (!loaded) return kWrongCall;
    Plan plan{base::fold(line.text("only")), line.has("continue"), {}};
    const std::string kept_path = files::join_path(loaded->yard.folder, "checkout.csv");
    const bool keeps = line.has("keep") || line.has("continue");
    if (keeps && files::is_there(kept_path)) {
        base::Diagnostics diagnostics;
        if (const auto source = files::read_source(kept_path, {}, diagnostics))
            plan.kept = files::read_checkout(source, diagnostics);
        show_diagnostics(line, diagnostics);
        if (diagnostics.has_errors()) return kWrongCall;
    }
    std::vector<std::string> results, read = loaded->yard.read_from;
    if (files::is_there(kept_path)) read.push_back(kept_path);
    for (const char* name : {"checkout.csv", "checkout.html"}) {
        if (line.has("out")) results.push_back(files::join_path(line.text("out"), name));
    }
    if (const auto refused = refuse_outputs(read, results)) return *refused;
    int tried = 0;
    const Interrupt interrupt;
    int exit = kWell;
    const auto linked = Linked::open(
        line, *loaded, [&] { return interrupt.come(); }, exit);
    if (linked == nullptr) return exit;
    const std::vector<SignedLine> lines = worked_through(line, *loaded, *linked, plan, interrupt, tried);
    const auto asked_for = [&](const SignedLine& l) { return plan.names(l.line); };
    if (!lines.empty() && std::none_of(lines.begin(), lines.end(), asked_for))
        return wrong_call(fmt::format("no joined point or tag has '{}' in its name", line.text("only")),
                          "vyard map lists the joins");
    const report::Table table = report::checkout_table(lines);
    if (line.has("out")) {
        const std::string folder = line.text("out");
        if (!write_result(line, files::join_path(folder, "checkout.csv"), report::table_csv(table)) ||
            !write_result(line, files::join_path(folder, "checkout.html"),
                          report::checkout_page(loaded->yard.name, lines)))
            return kOurFault;
    } else {
        std::vector<SignedLine> asked;
        std::copy_if(lines.begin(), lines.end(), std::back_inserter(asked), asked_for);
        const report::Table seen = report::checkout_table(asked);
        fmt::print("{}", line.has("json")  ? report::table_json(seen)
                         : line.has("csv") ? report::table_csv(seen)
                                           : report::table_text(shortened(seen)));
    }
    if (keeps && !write_file(kept_path, report::table_csv(table))) return kOurFault;
    const int failed = count(lines, CheckoutVerdict::Failed);
    const bool in_vain = session::any_elsewhere(*loaded->yard.model) && tried == 0 && !plan.go_on;
    if (!line.has("json") && !line.has("csv") && !line.quiet())
        fmt::print("\n{} tried now; {} passed, {} failed, {} not tried, of {}{}\n", tried,
                   count(lines, CheckoutVerdict::Passed), failed, count(lines, CheckoutVerdict::NotTried), lines.size(),
                   keeps ? "; kept in " + kept_path : "");
    return interrupt.exit_code(failed > 0 || in_vain ? kFailed : kWell);
}

}  // namespace vyard::cli
