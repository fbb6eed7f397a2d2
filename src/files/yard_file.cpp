#include "files/yard_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <set>

#include "files/exchange/exchange.hpp"
#include "files/link_file.hpp"
#include "files/map_file.hpp"
#include "files/plant_file.hpp"
#include "files/rack_file.hpp"
#include "files/stimulus_file.hpp"
#include "files/text_file.hpp"
#include "files/toml_source.hpp"

namespace vyard::files {

using base::Code;
using base::Nanoseconds;
using Form = plant::DefinitionValue::Form;

namespace {

/// Whether a substitute is for this file of a yard, named as the yard does, or as it lies from here.
bool stands_in(const Substitute& s, const std::string& folder, const std::string& path) {
    const auto same = [](const std::string& a, const std::string& b) {
        return std::filesystem::path(a).lexically_normal() == std::filesystem::path(b).lexically_normal();
    };
    return same(path, join_path(folder, s.original)) || same(path, s.original);
}

class YardReader {
  public:
    YardReader(Yard& yard, base::SourcePtr source, base::Diagnostics& diagnostics, const LoadOptions& options)
        : yard_(yard),
          source_(std::move(source)),
          diagnostics_(diagnostics),
          substitutes_(options.substitutes),
          used_(options.substitutes.size(), false),
          link_(options.link),
          outside_(options.outside) {}

    void run(const toml::table& root) {
        check_keys(source_, root, {"yard", "controller", "allow"}, "yard.toml", diagnostics_);
        yard_.frame = {source_};
        yard_.read_from = {source_->path};
        const toml::table* yard = table_at(root, "yard");
        if (yard == nullptr) {
            diagnostics_.error(Code::MissingKey, {source_, 1, 1, 1}, "yard.toml needs a table [yard]",
                               "[yard] with name, plant, map, time_step");
            return;
        }
        check_keys(source_, *yard, {"name", "plant", "map", "time_step", "seed", "procedures"}, "[yard]", diagnostics_);
        base::Place place;
        yard_.name = text_at(source_, *yard, "name", place, diagnostics_)
                         .value_or(std::filesystem::path(yard_.folder).filename().string());
        definition_.name = yard_.name;
        definition_.place = {source_, 0, 0, 1};
        definition_.step = time_at(*yard, "time_step", Nanoseconds(5'000'000));
        controllers(root);
        plant(*yard);
        allowed(root);
        procedures(*yard);
        map(*yard);
        links_for_nothing();
        static_cast<void>(substitute_for(join_path(yard_.folder, "yard.toml")));  // it has been read
        for (std::size_t i = 0; i < substitutes_.size(); ++i) {
            if (!used_[i])
                diagnostics_.error(Code::FileMissing, substitutes_[i].place,
                                   fmt::format("nothing of this yard is read from '{}', so nothing can stand in for it",
                                               substitutes_[i].original));
        }
    }

    session::Definition take() { return std::move(definition_); }

  private:
    static const toml::table* table_at(const toml::table& table, std::string_view key) {
        const toml::node* node = table.get(key);
        return node == nullptr ? nullptr : node->as_table();
    }

    /// A time that makes sense as a time step or scan: 10 us to 10 s.
    Nanoseconds time_at(const toml::table& table, std::string_view key, Nanoseconds otherwise) {
        base::Place place;
        if (table.contains(key) && !table.get(key)->is_string()) {
            diagnostics_.error(Code::WrongUnit, definition_value(source_, *table.get(key)).place,
                               fmt::format("'{}' needs a unit, written as a string; accepted: {}", key,
                                           base::accepted_units(base::Dimension::Time)),
                               fmt::format("{} = \"10 ms\"", key));
            return otherwise;
        }
        const auto text = text_at(source_, table, key, place, diagnostics_);
        if (!text) return otherwise;
        const auto reading = base::read_quantity(*text, base::Dimension::Time);
        if (reading.fault != base::QuantityFault::None) {
            diagnostics_.error(Code::WrongUnit, place, base::quantity_message(*text, reading, base::Dimension::Time));
            return otherwise;
        }
        if (reading.si_value < 10e-6 || reading.si_value > 10.0) {
            diagnostics_.error(Code::OutOfRange, place, fmt::format("'{}' is {}; accepted: 10 us to 10 s", key, *text));
            return otherwise;
        }
        return base::from_seconds(reading.si_value);
    }

    /// A file of the yard, or what stands in for it. A yard reads what lies in its own folder and in the current one;
    /// what else it names could show a stranger's files in messages, and must be meant.
    base::SourcePtr read(const std::string& path, const base::Place& named_at,
                         base::SourcePtr (*reader)(const std::string&, const base::Place&, base::Diagnostics&)) {
        const Substitute* other = substitute_for(path);
        const std::string& there = other == nullptr ? path : other->replacement;
        const base::Place& asked_at = other == nullptr ? named_at : other->place;
        if (outside_ || lies_within(there, {yard_.folder, "."})) {
            yard_.read_from.push_back(there);
            return reader(there, asked_at, diagnostics_);
        }
        diagnostics_.error(Code::FileMissing, asked_at,
                           fmt::format("{} lies outside of the yard and of the current folder", there),
                           "give --outside when it is meant");
        return nullptr;
    }

    /// What stands in for a file of the yard; null for nothing.
    const Substitute* substitute_for(const std::string& path) {
        for (std::size_t i = 0; i < substitutes_.size(); ++i) {
            if (!stands_in(substitutes_[i], yard_.folder, path)) continue;
            used_[i] = true;
            return &substitutes_[i];
        }
        return nullptr;
    }

    // --- controllers ---
    void controllers(const toml::table& root) {
        const toml::table* all = table_at(root, "controller");
        if (all == nullptr) return;
        for (const auto& [key, value] : *all) {
            if (const toml::table* table = value.as_table()) {
                controller(std::string(key.str()), place_of(source_, key), *table);
            } else {
                diagnostics_.error(Code::WrongValue, place_of(source_, key),
                                   fmt::format("a controller is a table: [controller.{}]", key.str()));
            }
        }
    }

    void controller(const std::string& name, const base::Place& place, const toml::table& table) {
        check_keys(source_, table,
                   {"logic", "scan", "watchdog", "max_instructions", "safe", "screen", "module", "link"},
                   fmt::format("[controller.{}]", name), diagnostics_);
        session::ControllerDefinition c;
        c.name = name;
        c.place = place;
        if (const toml::node* scan = table.get("scan")) {
            c.scan_place = definition_value(source_, *scan).place;
            c.scan = time_at(table, "scan", Nanoseconds(10'000'000));
        }
        if (table.contains("watchdog")) c.watchdog = time_at(table, "watchdog", Nanoseconds(100'000'000));
        if (const toml::node* most = table.get("max_instructions")) {
            const auto value = definition_value(source_, *most);
            if (value.form != Form::Number || value.number < 1 || value.number > 1e12) {
                diagnostics_.error(Code::OutOfRange, value.place,
                                   "'max_instructions' is a number of instructions, 1 to 1e12");
            } else {
                c.max_instructions = static_cast<std::int64_t>(value.number);
            }
        }
        c.logic = logic_sources(name, place, table);
        if (const toml::table* safe = table_at(table, "safe")) {
            for (const auto& [key, node] : *safe)
                c.safe.push_back({std::string(key.str()), place_of(source_, key), definition_value(source_, node)});
        }
        if (const toml::node* screen = table.get("screen")) {
            const plant::DefinitionValue names = definition_value(source_, *screen);
            if (names.form != Form::List)
                diagnostics_.error(Code::WrongValue, names.place, "'screen' is a list of tags that a screen writes",
                                   "screen = [\"setpoint\", \"recipe\"]");
            for (const plant::DefinitionValue& v : names.list) c.screen.push_back({v.text, v.place, {}});
        }
        if (const toml::node* modules = table.get("module")) read_modules(source_, *modules, 0, c.rack, diagnostics_);
        link(name, table, c);
        definition_.controllers.push_back(std::move(c));
    }

    /// Its link to others: as the yard says, or as was asked for.
    void link(const std::string& name, const toml::table& table, session::ControllerDefinition& c) {
        const toml::table* own = table_at(table, "link");
        if (table.contains("link") && own == nullptr)
            diagnostics_.error(Code::WrongValue, definition_value(source_, *table.get("link")).place,
                               fmt::format("a link is a table: [controller.{}.link]", name));
        if (own != nullptr) c.link = read_link(source_, name, *own, diagnostics_);
        if (own != nullptr && own->contains("stand_in")) {
            for (const auto& [path, named_at] : paths(definition_value(source_, *own->get("stand_in")), "stand_in")) {
                const base::SourcePtr source = read(path, named_at, read_logic);
                if (source == nullptr || !(link_.here || link_.stand_in)) continue;
                c.logic.push_back(source);
                yard_.logic.push_back(source);
            }
        }
        if (c.link) c.link->model.here = link_.here;
        any_elsewhere_ = any_elsewhere_ || (c.link && c.link->model.role != controller::LinkRole::Screen);
        for (const LinkOption& o : link_.links) {
            if (!o.controller.empty() && base::fold(o.controller) != base::fold(name)) continue;
            if (!c.link && !o.role) continue;
            asked_for_.insert(&o);
            if (!c.link) c.link.emplace().model.place = c.place;
            if (o.role) c.link->model.role = *o.role;
            std::string why;
            if (!o.at.empty()) read_endpoint(o.at, c.link->model.host, c.link->model.port, why);
        }
    }

    /// What was asked for of links, and no controller has.
    void links_for_nothing() {
        std::vector<std::string> known;
        for (const session::ControllerDefinition& c : definition_.controllers) known.push_back(c.name);
        for (const LinkOption& o : link_.links) {
            if (asked_for_.contains(&o)) continue;
            const bool named = std::any_of(known.begin(), known.end(), [&](const std::string& name) {
                return base::fold(name) == base::fold(o.controller);
            });
            if (!o.controller.empty() && !named) {
                diagnostics_.error(Code::UnknownName, {},
                                   fmt::format("--link {}: no controller is named '{}'", o.text, o.controller),
                                   base::name_hint(o.controller, known));
            } else {
                diagnostics_.error(
                    Code::MissingKey, {},
                    fmt::format("--link {}: the yard says nothing of that link, so its role is wanted", o.text),
                    fmt::format("--link server@{0}, client@{0} or screen@{0}", o.at));
            }
        }
        if (link_.here && !any_elsewhere_)
            diagnostics_.error(Code::MissingKey, {}, "--here: no controller of this yard is executed elsewhere");
    }

    std::vector<base::SourcePtr> logic_sources(const std::string& name, const base::Place& place,
                                               const toml::table& table) {
        std::vector<base::SourcePtr> sources;
        const toml::node* logic = table.get("logic");
        if (logic == nullptr) {
            diagnostics_.error(Code::MissingKey, place, fmt::format("controller '{}' needs 'logic'", name),
                               "logic = [\"logic/*.st\"]");
            return sources;
        }
        for (const auto& [path, named_at] : paths(definition_value(source_, *logic), "logic")) {
            if (const base::SourcePtr source = read(path, named_at, read_logic)) sources.push_back(source);
        }
        yard_.logic.insert(yard_.logic.end(), sources.begin(), sources.end());
        return sources;
    }

    /// A list of files and patterns, each found once, with where it was named.
    std::vector<std::pair<std::string, base::Place>> paths(const plant::DefinitionValue& value, const char* key) {
        std::vector<std::pair<std::string, base::Place>> out;
        if (value.form != Form::List && value.form != Form::Text) {
            diagnostics_.error(Code::WrongValue, value.place, fmt::format("'{}' is a list of files", key),
                               fmt::format("{} = [\"{}/*\"]", key, key));
            return out;
        }
        std::vector<plant::DefinitionValue> list = value.list;
        if (value.form == Form::Text) list.push_back(value);
        for (const plant::DefinitionValue& v : list) {
            if (v.form != Form::Text) {
                diagnostics_.error(Code::WrongValue, v.place,
                                   fmt::format("'{}' is a list of files, written as strings", key));
                continue;
            }
            std::string why;
            std::vector<std::string> found = expand(yard_.folder, v.text, why);
            const bool pattern = v.text.find_first_of("*?[") != std::string::npos;
            if (found.empty() && pattern) {
                // A yard may have no procedures yet; a controller without logic is a mistake.
                const std::string message = why.empty() ? fmt::format("no file matches '{}'", v.text) : why;
                if (why.empty() && std::string_view(key) == "procedures")
                    diagnostics_.remark(Code::FileMissing, v.place, message);
                else
                    diagnostics_.error(why.empty() ? Code::FileMissing : Code::FileUnreadable, v.place, message);
            }
            if (found.empty() && !pattern) found.push_back(join_path(yard_.folder, v.text));
            for (const std::string& path : found) {
                const bool known = std::any_of(out.begin(), out.end(), [&](const auto& o) { return o.first == path; });
                if (!known) out.emplace_back(path, v.place);
            }
        }
        return out;
    }

    // --- plant, procedures, map ---
    void plant(const toml::table& yard) {
        base::Place place;
        const auto name = text_at(source_, yard, "plant", place, diagnostics_);
        plant::PlantDefinition definition;
        if (name) {
            const base::SourcePtr source = read(join_path(yard_.folder, *name), place, read_source);
            if (source == nullptr) return;
            const int before = diagnostics_.error_count();
            yard_.frame.push_back(source);
            definition = read_plant(source, diagnostics_, [&](const std::string& path, const base::Place& where) {
                const base::SourcePtr part = read(join_path(yard_.folder, path), where, read_source);
                if (part != nullptr) yard_.frame.push_back(part);
                return part;
            });
            if (definition.devices.empty() && diagnostics_.error_count() > before) return;
        }
        definition.seed = seed(yard);
        definition_.plant = std::move(definition);
    }

    /// [[allow]] mishap, reason: what may happen in this plant, and why.
    void allowed(const toml::table& root) {
        const toml::node* node = root.get("allow");
        if (node == nullptr) return;
        const toml::array* list = node->as_array();
        const base::Place all = definition_value(source_, *node).place;
        if (list == nullptr)
            return diagnostics_.error(Code::WrongValue, all, "what is allowed is a list of tables",
                                      "[[allow]] with mishap and reason");
        for (const toml::node& entry : *list) {
            const toml::table* table = entry.as_table();
            const base::Place place = definition_value(source_, entry).place;
            if (table == nullptr) {
                diagnostics_.error(Code::WrongValue, place, "what is allowed is a table: [[allow]]");
                continue;
            }
            check_keys(source_, *table, {"mishap", "reason"}, "[[allow]]", diagnostics_);
            base::Place mishap_place = place, reason_place = place;
            const auto mishap = text_at(source_, *table, "mishap", mishap_place, diagnostics_);
            const auto reason = text_at(source_, *table, "reason", reason_place, diagnostics_);
            if (!table->contains("mishap"))
                diagnostics_.error(Code::MissingKey, place, "[[allow]] needs 'mishap'",
                                   "mishap = \"infeed.item_fell\"");
            if (!table->contains("reason") || (reason && reason->empty()))
                diagnostics_.error(Code::MissingKey, table->contains("reason") ? reason_place : place,
                                   "[[allow]] needs a 'reason'", "reason = \"a basket stands under its end\"");
            if (mishap && reason && !reason->empty() && definition_.plant)
                definition_.plant->allowed.push_back({*mishap, *reason, mishap_place});
        }
    }

    /// Of all that is random: a whole number, 1 unless said otherwise.
    std::uint64_t seed(const toml::table& yard) {
        const toml::node* node = yard.get("seed");
        if (node == nullptr) return 1;
        const auto value = definition_value(source_, *node);
        if (value.form == Form::Number && value.number >= 0 && value.number <= 1e15 &&
            value.number == std::floor(value.number))
            return static_cast<std::uint64_t>(value.number);
        diagnostics_.error(Code::OutOfRange, value.place, "'seed' is a whole number, 0 to 1e15");
        return 1;
    }

    void procedures(const toml::table& yard) {
        const toml::node* node = yard.get("procedures");
        if (node == nullptr) return;
        for (const auto& [path, named_at] : paths(definition_value(source_, *node), "procedures")) {
            if (base::SourcePtr source = read(path, named_at, read_source))
                yard_.procedures.push_back(std::move(source));
        }
    }

    void map(const toml::table& yard) {
        base::Place place;
        const auto name = text_at(source_, yard, "map", place, diagnostics_);
        if (!name) return;
        const base::SourcePtr source = read(join_path(yard_.folder, *name), place, read_source);
        if (source == nullptr) return;
        yard_.map = source;
        yard_.frame.push_back(source);
        definition_.map = read_map(source, diagnostics_);
        definition_.map_place = {source, 0, 0, 1};
    }

    Yard& yard_;
    base::SourcePtr source_;
    base::Diagnostics& diagnostics_;
    const std::vector<Substitute>& substitutes_;
    std::vector<bool> used_;
    const LinkOptions& link_;
    std::set<const LinkOption*> asked_for_;  ///< That some controller has taken.
    bool any_elsewhere_ = false;
    bool outside_;
    session::Definition definition_;
};

}  // namespace

namespace {

void finish(Yard& yard, session::Definition definition, const LoadOptions& options, base::Diagnostics& diagnostics) {
    if (!options.stimulus.empty()) {
        yard.read_from.push_back(options.stimulus);
        if (const base::SourcePtr source = read_source(options.stimulus, {}, diagnostics))
            definition.stimuli = read_stimulus(source, diagnostics);
    }
    definition.overrides = options.overrides;
    if (options.seed && definition.plant) definition.plant->seed = *options.seed;
    definition.coverage = options.coverage;
    session::Built built = session::build(definition, diagnostics);
    yard.model = std::move(built.model);
    yard.checked = std::move(built.checked);
    yard.names_known = built.names_known;
    yard.expectations = std::move(built.expectations);
}

}  // namespace

Yard load_yard(const std::string& where, base::Diagnostics& diagnostics, const LoadOptions& options) {
    Yard yard;
    const std::filesystem::path path(where);
    const bool folder = is_folder(where);
    yard.folder = folder ? where : path.parent_path().string();
    const std::string file = folder ? join_path(where, "yard.toml") : where;
    const auto other = std::find_if(options.substitutes.begin(), options.substitutes.end(),
                                    [&](const Substitute& s) { return stands_in(s, yard.folder, file); });
    const bool as_it_is = other == options.substitutes.end();
    if (!as_it_is && !options.outside && !lies_within(other->replacement, {yard.folder, "."})) {
        diagnostics.error(base::Code::FileMissing, other->place,
                          fmt::format("{} lies outside of the yard and of the current folder", other->replacement),
                          "give --outside when it is meant");
        return yard;
    }
    const base::SourcePtr source =
        as_it_is ? read_source(file, {}, diagnostics) : read_source(other->replacement, other->place, diagnostics);
    if (source == nullptr) return yard;
    yard.place = {source, 0, 0, 1};
    const auto root = parse_toml(source, diagnostics);
    if (!root) return yard;
    YardReader reader(yard, source, diagnostics, options);
    reader.run(*root);
    finish(yard, reader.take(), options, diagnostics);
    return yard;
}

bool is_logic_file(const std::string& path) {
    const bool text = base::fold(std::filesystem::path(path).extension().string()) == ".st" && !is_folder(path);
    return text || is_exchange_file(path);
}

base::SourcePtr read_logic(const std::string& path, const base::Place& named_at, base::Diagnostics& diagnostics) {
    base::SourcePtr source = read_source(path, named_at, diagnostics);
    return source != nullptr && is_exchange_file(path) ? read_exchange(source, diagnostics) : source;
}

Yard load_logic(const std::string& path, std::optional<base::Nanoseconds> scan, base::Diagnostics& diagnostics,
                const LoadOptions& options) {
    if (options.link.here || !options.link.links.empty())
        diagnostics.error(Code::MissingKey, {}, "a lone logic file has no link to anybody",
                          "--here and --link are for yards");
    Yard yard;
    yard.folder = std::filesystem::path(path).parent_path().string();
    yard.name = std::filesystem::path(path).filename().string();
    yard.read_from = {path};
    const base::SourcePtr source = read_logic(path, {}, diagnostics);
    if (source == nullptr) return yard;
    yard.place = {source, 0, 0, 1};
    session::ControllerDefinition c;
    c.name = std::filesystem::path(path).stem().string();
    c.place = yard.place;
    c.logic = {source};
    yard.logic = {source};
    base::Diagnostics ignored;  // reported at building; here only what its tasks ask for is wanted
    c.scan = scan.value_or(
        logic::scan_of_tasks(*logic::check_program({source}, ignored).program).value_or(Nanoseconds(10'000'000)));
    session::Definition definition;
    definition.name = yard.name;
    definition.place = yard.place;
    definition.step = *c.scan;
    definition.plant.emplace();
    definition.controllers.push_back(std::move(c));
    finish(yard, std::move(definition), options, diagnostics);
    return yard;
}

std::string find_yard(const std::string& start) {
    std::error_code failure;
    for (std::filesystem::path folder = std::filesystem::absolute(start, failure);; folder = folder.parent_path()) {
        if (std::filesystem::exists(folder / "yard.toml", failure)) {
            const std::string relative = std::filesystem::relative(folder, start, failure).string();
            return relative.empty() ? folder.string() : relative;
        }
        if (folder == folder.parent_path()) return {};
    }
}

std::string yard_around(const std::string& file) {
    const std::filesystem::path folder = std::filesystem::path(file).parent_path();
    std::string found = find_yard(folder.empty() ? "." : folder.string());
    if (found.empty() || std::filesystem::path(found).is_absolute()) return found;
    return (folder / found).lexically_normal().string();
}

}  // namespace vyard::files
