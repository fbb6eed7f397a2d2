// yard.toml and everything it names, loaded into a session model. All mistakes of all files are reported together.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/session/session.hpp"

namespace vyard::files {

struct Yard {
    std::string folder;
    std::string name;
    session::SessionModelPtr model;    ///< Null after errors.
    session::SessionModelPtr checked;  ///< What could be built, for checking procedures; unfit to run after errors.
    std::vector<session::Expectation> expectations;  ///< Of the table of stimuli.
    bool names_known = false;                        ///< Plant and logic have no errors: an unknown name is one indeed.
    std::vector<base::SourcePtr> procedures;         ///< Their texts, in order of name.
    base::Place place;                               ///< Of yard.toml.
    base::SourcePtr map;                             ///< The map as it was read; null without one.
    std::vector<base::SourcePtr> logic;              ///< As they were read.
    std::vector<std::string> read_from;              ///< Paths of all files, the table of stimuli included.
    std::vector<base::SourcePtr> frame;              ///< All that is no logic and no procedure: yard.toml, plant, map.
};

/// Replaces a file of the yard by another for this loading: path within the yard, path of the other.
struct Substitute {
    std::string original;
    std::string replacement;
    base::Place place{};  ///< Where it was asked for.
};

/// How controllers' links are used in one run, other than the yard says.
struct LinkOption {
    std::string text;                            ///< As it was given.
    std::string controller;                      ///< "" for all.
    std::optional<controller::LinkRole> role{};  ///< Null for what the yard says.
    std::string at;                              ///< Host and port; "" for what the yard says.
};
struct LinkOptions {
    bool here = false;      ///< No link: all is executed here, with the logic of stand-ins.
    bool stand_in = false;  ///< The links are kept, and the logic of stand-ins is read.
    std::vector<LinkOption> links;
};

struct LoadOptions {
    std::vector<Substitute> substitutes;
    std::string stimulus;  ///< A table of stimuli; "" for none.
    std::vector<session::Override> overrides;
    std::optional<std::uint64_t> seed{};  ///< In place of the yard's.
    bool outside = false;                 ///< Files outside of the yard's folder and of the current one are meant.
    bool coverage = false;                ///< Programs with marks (see logic::Coverage).
    LinkOptions link{};
};

/// `where`: a yard folder or its yard.toml.
Yard load_yard(const std::string& where, base::Diagnostics& diagnostics, const LoadOptions& options = {});

/// A lone logic file as a yard without a plant: nothing is joined, and the scan is `scan`, or what its tasks ask for,
/// or 10 ms.
Yard load_logic(const std::string& path, std::optional<base::Nanoseconds> scan, base::Diagnostics& diagnostics,
                const LoadOptions& options = {});
/// Whether a path names a logic file and not a yard: our text (.st) or the open XML (.xml).
bool is_logic_file(const std::string& path);
/// The text of a logic file; that of an XML file is made from it (see exchange.hpp). Null after a report.
base::SourcePtr read_logic(const std::string& path, const base::Place& named_at, base::Diagnostics& diagnostics);

/// The nearest folder at or above `start` that holds a yard.toml; "" when there is none.
std::string find_yard(const std::string& start);
/// The folder of the yard that a file lies in, from the current folder; "" when there is none.
std::string yard_around(const std::string& file);

}  // namespace vyard::files
