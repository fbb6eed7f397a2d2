// The commands: one file each, one table. A command turns options into calls of the rooms below and their outcome
// into an exit code; it computes nothing itself.
#pragma once

#include <boost/program_options.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/procedure/procedure.hpp"
#include "core/trace/trace.hpp"
#include "files/text_file.hpp"
#include "files/yard_file.hpp"
#include "report/table.hpp"

namespace vyard::cli {

enum Exit : int {
    kWell = 0,       ///< All well.
    kFailed = 1,     ///< A verdict failed.
    kWrongCall = 2,  ///< The input or the call is wrong; nothing was run.
    kOurFault = 3,   ///< The tool itself failed (a file refused by the system, an internal error).
};

class CommandLine;

struct Command {
    const char* name;
    const char* summary;
    CommandLine (*line)();  ///< What may be typed behind its name; help, man pages and completion follow from it.
    int (*run)(const CommandLine& line);
};

const std::vector<Command>& commands();
/// Null when there is none of that name.
const Command* find_command(std::string_view name);
/// Prints that there is no command of that name, and the nearest; returns kWrongCall.
int no_command(const std::string& name);
/// Runs a command as typed: parses, prints help or a mistake, or obeys.
int obey(const Command& command, const std::vector<std::string>& arguments);

/// Options of one command, with the help text built from them.
class CommandLine {
  public:
    /// `usage`: "check [YARD] [options]"; `example`: a line that works in a fresh checkout.
    CommandLine(std::string usage, std::string summary, std::string example);

    boost::program_options::options_description& options() { return options_; }
    /// Adds --use, --strict, --scan ..., which every command that loads a yard takes.
    void add_yard_options();
    /// Adds --stimulus, --set and --seed, which every command that runs a yard takes.
    void add_run_options();
    /// Adds --link, where a link of a yard can be used.
    void add_link_options();
    /// The yard is loaded with the logic of stand-ins, for whoever speaks for a controller.
    void reads_stand_ins() { stand_ins_ = true; }
    bool has_stand_ins() const { return stand_ins_; }
    /// Whether the command takes an option of this name.
    bool takes(const char* name) const { return options_.find_nothrow(name, false) != nullptr; }

    // What goes with what: parse() refuses the rest, so that no option is dropped.
    using Names = std::vector<std::string>;
    /// At most one of these.
    void one_of(Names names) { exclusive_.push_back(std::move(names)); }
    /// None of `others` beside any of `names`.
    void apart(const Names& names, const Names& others);
    /// An option that means something with one of `others` alone.
    void needs(const std::string& name, Names others) { needed_.emplace_back(name, std::move(others)); }
    /// An option for some of the things that the first word names: "--at" of "draw plan".
    void only_for(const Names& names, const Names& words);
    /// Whether an option is for what the first word names.
    bool is_for_word(const std::string& name) const;

    /// How many words that are no options may stand behind the command.
    void takes_words(std::size_t most) { most_words_ = most; }

    /// An exit code when there is nothing more to do (help was printed, or the call is wrong).
    std::optional<int> parse(const std::vector<std::string>& arguments);
    /// What --help prints.
    std::string help() const;
    const std::string& usage() const { return usage_; }
    const std::string& summary() const { return summary_; }
    const std::string& example() const { return example_; }
    const boost::program_options::options_description& options() const { return options_; }

    bool has(const char* name) const { return values_.count(name) > 0; }
    std::string text(const char* name) const { return has(name) ? values_[name].as<std::string>() : std::string(); }
    std::vector<std::string> list(const char* name) const;
    /// Names of an option that may be repeated, each time with commas between them.
    std::vector<std::string> names(const char* name) const;
    /// Nothing is said but what was asked for and what went wrong.
    bool quiet() const { return has("quiet"); }
    /// Whether standard output, or standard error, gets colours.
    bool colours_output() const;
    bool colours_errors() const;
    /// Words that are no options: YARD and what follows.
    const std::vector<std::string>& words() const { return words_; }
    std::string word(std::size_t i) const { return i < words_.size() ? words_[i] : std::string(); }

    /// A quantity option in SI; null after a report. `otherwise` when it was not given.
    std::optional<double> quantity(const char* name, base::Dimension dimension, double otherwise, double low,
                                   double high) const;
    std::vector<files::Substitute> substitutes() const;
    /// --set; null after a report.
    std::optional<std::vector<session::Override>> overrides() const;

    /// Keeps in mind what was reported, for the exit code: that the system refuses a file is no mistake of the input.
    void remember(const std::vector<base::Diagnostic>& reported) const;
    /// Whether a file that was asked for is there, and the system does not hand it out.
    bool refused_by_system() const { return refused_by_system_; }

  private:
    mutable bool refused_by_system_ = false;
    std::string usage_, summary_, example_;
    boost::program_options::options_description options_{"Options"};
    boost::program_options::variables_map values_;
    std::vector<std::string> words_;
    std::size_t most_words_ = 0;
    bool stand_ins_ = false;
    std::vector<Names> exclusive_;
    std::vector<std::pair<std::string, Names>> needed_, for_words_;

    /// "" or what does not go together.
    std::string misfit() const;
};

CommandLine new_line();
int new_command(const CommandLine& line);
CommandLine completion_line();
int completion_command(const CommandLine& line);
CommandLine manual_line();
int manual_command(const CommandLine& line);
CommandLine check_line();
int check_command(const CommandLine& line);
CommandLine run_line();
int run_command(const CommandLine& line);
CommandLine tell_line();
int tell_command(const CommandLine& line);
CommandLine prove_line();
int prove_command(const CommandLine& line);
CommandLine campaign_line();
int campaign_command(const CommandLine& line);
CommandLine live_line();
int live_command(const CommandLine& line);
CommandLine draw_line();
int draw_command(const CommandLine& line);
CommandLine format_line();
int format_command(const CommandLine& line);
CommandLine convert_line();
int convert_command(const CommandLine& line);
CommandLine compare_line();
int compare_command(const CommandLine& line);
CommandLine why_line();
int why_command(const CommandLine& line);
CommandLine measure_line();
int measure_command(const CommandLine& line);
CommandLine show_line();
int show_command(const CommandLine& line);
CommandLine blocks_line();
int blocks_command(const CommandLine& line);
CommandLine kinds_line();
int kinds_command(const CommandLine& line);
CommandLine tags_line();
int tags_command(const CommandLine& line);
CommandLine map_line();
int map_command(const CommandLine& line);
CommandLine checkout_line();
int checkout_command(const CommandLine& line);
CommandLine serve_line();
int serve_command(const CommandLine& line);
CommandLine stand_in_line();
int stand_in_command(const CommandLine& line);
CommandLine demo_line();
int demo_command(const CommandLine& line);

/// A yard that is fit to run, its procedures read.
struct Loaded {
    files::Yard yard;
    std::shared_ptr<const procedure::Book> book;  ///< Null when the yard names no procedures.
    std::vector<base::Diagnostic> diagnostics;    ///< Sorted; after load() warnings alone.
    int errors = 0, warnings = 0, remarks = 0;
};

/// Loads what a word of the line names: a yard, a lone logic file, a procedure file for the yard around it, or "" for
/// the yard around the current folder.
/// Diagnostics go to standard error; null after errors. Warnings are shown only when asked for.
/// `doubts`: what is hardly meant is looked for too (session::warn_unguarded, warn_not_interlocked, warn_foreseen);
/// with --strict it always is.
std::optional<Loaded> load(const CommandLine& line, bool show_warnings = false, std::size_t word = 0,
                           bool doubts = false);
/// The same without a report of what is wrong in the files; null when the call itself is wrong.
std::optional<Loaded> read_all(const CommandLine& line, std::size_t word = 0, bool doubts = false);
/// How the options of the line say that a yard is loaded; null after a report.
std::optional<files::LoadOptions> load_options(const CommandLine& line);
/// Whether a word of the line names a yard or a lone logic file that is there.
bool names_yard(const std::string& word);
/// Whether a word of the line names a procedure file that is there.
bool names_procedure_file(const std::string& word);

/// Prints a wrong call to standard error; returns kWrongCall.
int wrong_call(const std::string& message, const std::string& hint = {});

/// Diagnostics on standard error, in colours where the line says so.
void show_diagnostics(const CommandLine& line, const std::vector<base::Diagnostic>& list);
/// The same, and how many more there are than are kept.
void show_diagnostics(const CommandLine& line, const base::Diagnostics& diagnostics);

/// "-": standard output in place of a file.
bool is_standard_output(const std::string& path);
/// Writes a result file and names it on standard output, unless that holds JSON or the command is to be quiet; "-" is
/// standard output itself. False after a report.
bool write_result(const CommandLine& line, const std::string& path, const std::string& text);
/// The same for one that was written piece by piece.
bool keep_result(const CommandLine& line, files::WholeFile& file);
/// Writes a file without a word; false after a report.
bool write_file(const std::string& path, const std::string& text);
/// "wrote FILE", where that is wanted.
void announce(const CommandLine& line, const std::string& path);
/// "1 tag", "2 tags".
std::string number_of(std::size_t count, const char* noun);

/// Results that are to be written later, looked at beforehand: an exit code, after a report, when one of them would
/// take the place of a file that is read, or cannot be written.
std::optional<int> refuse_outputs(const std::vector<std::string>& read, const std::vector<std::string>& results);

/// Whether a path ends as a figure can be written.
bool is_figure_file(const std::string& path);
/// Prints that a path does not; returns kWrongCall.
int wrong_figure_file(const std::string& path);

/// A table as --json, --csv or columns, to --out or standard output.
int print_table(const CommandLine& line, const report::Table& table);

/// Channels for names; null after a report that names the nearest.
std::optional<std::vector<trace::Channel>> channels_for(const session::SessionModel& model,
                                                        const std::vector<std::string>& names);

/// Procedures by name: a procedure's own name, all of a file by the file's name, or either by a beginning that fits one
/// alone. Empty after a report.
std::vector<std::size_t> find_procedures(const Loaded& loaded, const std::string& name);

/// The orders of --do, read as a procedure of one step; null after a report.
std::shared_ptr<const procedure::Book> read_orders(const CommandLine& line, const session::SessionModel& model);

}  // namespace vyard::cli
