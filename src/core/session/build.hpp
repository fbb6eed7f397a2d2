// From what the files of a yard said to a model that runs: plant, programs, safe values, map and stimuli checked
// against one another. Files only read; whoever makes a definition otherwise (tests, sweeps) gets the same checks.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/plant/plant.hpp"
#include "core/session/signals.hpp"

namespace vyard::session {

/// A key of a table and its value.
struct SafeDefinition {
    std::string tag;
    base::Place place;
    plant::DefinitionValue value;
};

/// A controller's link as it was read.
struct LinkDefinition {
    controller::LinkModel model;        ///< Without registers.
    std::vector<SafeDefinition> write;  ///< Screen: tags that may be written; `value` is unused.
    std::vector<wiring::Asked> asks;    ///< Other controllers that it asks by itself.
    base::Place echo_place;
};

struct ControllerDefinition {
    std::string name;
    base::Place place;
    std::vector<base::SourcePtr> logic;
    std::optional<base::Nanoseconds> scan;  ///< Null: what its tasks ask for, or 10 ms.
    base::Place scan_place;                 ///< Unknown: `place` stands for it.
    std::optional<base::Nanoseconds> watchdog;
    std::optional<std::int64_t> max_instructions;
    std::vector<SafeDefinition> safe;
    std::vector<SafeDefinition> screen;  ///< Tags that a screen writes, and nothing of the yard; `value` is unused.
    std::vector<wiring::Module> rack;    ///< Their `controller` is set at building.
    std::optional<LinkDefinition> link;
};

/// A row of a table of stimuli: at its time a value is written, or looked at after the scan, or both.
struct StimulusDefinition {
    base::Nanoseconds time{};
    std::string tag;
    base::Place tag_place;
    std::string value;  ///< "" for none.
    base::Place value_place;
    std::string expect{};  ///< "" for none. Any signal may be looked at; a number may have a tolerance: 3.5 +- 0.1.
    base::Place expect_place{};
};

/// What a table expects of a signal after the first scan at or after a time.
struct Expectation {
    base::Nanoseconds time{};
    Signal signal;
    std::string name, text;  ///< As written.
    logic::Value value;
    double tolerance = 0.0;  ///< Of REAL and LREAL: as written, or a millionth.
    base::Place place;
};

/// A value that replaces what the files say, for one build.
struct Override {
    std::string name;  ///< "DEVICE.KEY" of the plant's file, or a tag, whose initial value it is.
    std::string value;
    base::Place place;
};

struct Definition {
    std::string name;
    base::Place place;
    base::Nanoseconds step{5'000'000};
    std::optional<plant::PlantDefinition> plant;  ///< Null: it could not be read, and was reported.
    std::vector<ControllerDefinition> controllers;
    std::optional<std::vector<wiring::MapRow>> map;  ///< Null likewise.
    base::Place map_place;
    std::vector<StimulusDefinition> stimuli;
    std::vector<Override> overrides;
    bool coverage = false;  ///< Programs with marks (see logic::Coverage).
};

struct Built {
    SessionModelPtr model;    ///< Null after errors.
    SessionModelPtr checked;  ///< What could be built, for checking procedures; unfit to run after errors.
    std::vector<Expectation> expectations;  ///< In order of time.
    bool names_known = false;               ///< Plant and logic have no errors: an unknown name is one indeed.
};

/// All mistakes are reported together.
Built build(const Definition& definition, base::Diagnostics& diagnostics);

/// The model of a definition that is known to be right: tests, figures of examples. A mistake is our bug.
SessionModelPtr build_or_die(const Definition& definition);

}  // namespace vyard::session
