#include "core/plant/builder.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <optional>
#include <set>

#include "core/plant/assemblies.hpp"
#include "core/plant/own_kind.hpp"
#include "core/plant/placements.hpp"
#include "core/plant/step.hpp"
#include "core/plant/value_reader.hpp"

namespace vyard::plant {

using base::Code;
using base::Dimension;

namespace {

using Form = DefinitionValue::Form;

/// Identifiers as in the logic, joined by dots.
bool is_name(const std::string& name) {
    bool start = true;
    for (const char c : name) {
        const bool letter = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_';
        const bool digit = c >= '0' && c <= '9';
        if (start ? !letter : !letter && !digit && c != '.') return false;
        start = c == '.';
    }
    return !name.empty() && !start;
}

class Builder {
  public:
    Builder(const PlantDefinition& definition, base::Diagnostics& diagnostics)
        : definition_(definition), diagnostics_(diagnostics) {}

    CheckedPlant run() {
        model_->step_s = definition_.step_s;
        model_->initial.random.state = definition_.seed;
        own_kinds();
        read_.read_colours(definition_);
        read_.read_items(definition_);
        declare();
        allocate();
        for (std::size_t d = 0; d < model_->devices.size(); ++d) read_parameters(d);
        for (const DeviceModel& d : model_->devices) {
            if (d.kind->own != nullptr)
                start_own_device(*d.kind, model_->parameters.data() + d.model_offset,
                                 model_->initial.devices.data() + d.state_offset);
        }
        place_devices(*model_, sources_, unusable_, read_, diagnostics_);
        points();
        allow();
        doubts();
        return {model_, std::move(left_out_)};
    }

  private:
    void error(Code code, const base::Place& place, std::string message, std::string hint = {}) {
        diagnostics_.error(code, place, std::move(message), std::move(hint));
    }

    /// What of a device in its plant is hardly meant.
    void doubts() {
        if (diagnostics_.has_errors()) return;
        for (std::size_t d = 0; d < model_->devices.size(); ++d) {
            const DeviceModel& device = model_->devices[d];
            if (device.kind->doubt == nullptr) continue;
            std::string doubt = device.kind->doubt(parameters_of(d), *model_);
            if (!doubt.empty())
                diagnostics_.warning(Code::OutOfReach, device.place, fmt::format("'{}': {}", device.name, doubt));
        }
    }

    void own_kinds() {
        for (const OwnKindDefinition& d : definition_.own_kinds) {
            if (model_->find_kind(d.name) != nullptr) {
                error(Code::DuplicateName, d.place, fmt::format("there is a kind '{}' already", d.name));
                continue;
            }
            if (auto kind = make_own_kind(d, diagnostics_)) model_->own_kinds.push_back(std::move(kind));
        }
    }

    // --- devices ---
    void declare() {
        std::map<std::string, base::Place> seen;
        for (const DeviceDefinition& d : definition_.devices) {
            const Kind* kind = model_->find_kind(d.kind);
            if (kind == nullptr) {
                left_out_.push_back(d.name);
                const bool own = std::any_of(definition_.own_kinds.begin(), definition_.own_kinds.end(),
                                             [&](const OwnKindDefinition& k) { return k.name == d.kind; });
                if (own) continue;  // its own mistakes are reported
                std::vector<std::string> known;
                for (const Kind& k : all_kinds()) known.push_back(k.name);
                for (const auto& k : model_->own_kinds) known.push_back(k->name);
                for (const AssemblyDefinition& a : definition_.assemblies) known.push_back(a.name);
                error(Code::UnknownKind, d.kind_place, fmt::format("no device kind is named '{}'", d.kind),
                      base::name_hint(d.kind, known));
                continue;
            }
            if (!is_name(d.name)) {
                error(Code::WrongValue, d.place,
                      fmt::format("'{}' cannot be a name; names are letters, digits and underscores", d.name),
                      "conditions and orders could not name it");
                continue;
            }
            const auto [first, fresh] = seen.emplace(base::fold(d.name), d.place);
            if (!fresh) {
                error(Code::DuplicateName, d.place,
                      fmt::format("'{}' is declared twice; first at {}", d.name, first->second.text()));
                continue;
            }
            DeviceModel device;
            device.name = d.name;
            device.kind = kind;
            device.place = d.place;
            device.points.fill(kNone);
            model_->devices.push_back(std::move(device));
            sources_.push_back(&d);
        }
    }

    void allocate() {
        std::uint32_t model_at = 0, state_at = 0;
        const auto rounded = [](std::size_t n) { return static_cast<std::uint32_t>((n + 7) / 8 * 8); };
        for (DeviceModel& d : model_->devices) {
            d.model_offset = model_at;
            d.state_offset = state_at;
            model_at += rounded(d.kind->model_size);
            state_at += rounded(d.kind->state_size);
        }
        model_->parameters.resize(model_at);
        model_->initial.devices.resize(state_at);
        model_->vessels.assign(model_->devices.size(), {});
        const auto add = [](bool has, auto& list) {
            if (!has) return kNone;
            list.push_back({});
            return static_cast<int>(list.size()) - 1;
        };
        for (DeviceModel& d : model_->devices) {
            if (d.kind->extends) model_->reach_m.push_back(std::numeric_limits<double>::infinity());
            d.extension = add(d.kind->extends, model_->initial.extension_m);
            d.drive = add(d.kind->drives, model_->initial.drive_ratio);
            d.liquid = add(d.kind->holds_liquid, model_->initial.liquids);
            d.air = add(d.kind->gives_air, model_->initial.pressure_pa);
            d.kind->make_model(model_->parameters.data() + d.model_offset);
            d.kind->make_state(model_->initial.devices.data() + d.state_offset);
        }
    }

    std::byte* parameters_of(std::size_t d) { return model_->parameters.data() + model_->devices[d].model_offset; }

    void read_parameters(std::size_t d) {
        DeviceModel& device = model_->devices[d];
        const DeviceDefinition& source = *sources_[d];
        const Kind& kind = *device.kind;
        std::vector<std::string> placing;
        for (const auto& [name, help] : placement_keys(kind.placement)) placing.push_back(name);
        for (const DefinitionKey& key : source.keys) {
            const bool places = std::find(placing.begin(), placing.end(), key.name) != placing.end();
            const bool known = places || std::any_of(kind.parameters.begin(), kind.parameters.end(),
                                                     [&](const ParameterSpec& p) { return p.name == key.name; });
            if (known) continue;
            std::vector<std::string> names = placing;
            for (const ParameterSpec& p : kind.parameters) names.push_back(p.name);
            error(Code::UnknownKey, key.place, fmt::format("{} has no '{}'", base::with_article(kind.name), key.name),
                  base::name_hint(key.name, names));
        }
        for (const ParameterSpec& p : kind.parameters) {
            const auto key = std::find_if(source.keys.begin(), source.keys.end(),
                                          [&](const DefinitionKey& k) { return k.name == p.name; });
            if (key != source.keys.end()) {
                if (const auto value = parameter(p, key->value, device)) {
                    p.store(parameters_of(d), *value);
                    if (p.type == ParameterType::Device && p.name == "from") device.from = std::get<int>(*value);
                    if (p.type == ParameterType::Device && p.name == "into") device.into = std::get<int>(*value);
                } else {
                    unusable_.insert(static_cast<int>(d));
                    // It may decide which points there are.
                    if (p.type == ParameterType::Choice || p.type == ParameterType::Whole)
                        left_out_.push_back(device.name);
                }
            } else if (p.required) {
                unusable_.insert(static_cast<int>(d));
                error(Code::MissingKey, source.place,
                      fmt::format("{} '{}' needs '{}': {}", kind.name, device.name, p.name, p.help));
            } else {
                store_default(p, d);
            }
        }
        check_together(d, source.place);
    }

    /// What single parameters cannot show.
    void check_together(std::size_t d, const base::Place& place) {
        const Kind& kind = *model_->devices[d].kind;
        if (kind.check == nullptr || unusable_.contains(static_cast<int>(d))) return;
        const std::string wrong = kind.check(parameters_of(d));
        if (wrong.empty()) return;
        unusable_.insert(static_cast<int>(d));
        error(Code::WrongValue, place, fmt::format("{} '{}': {}", kind.name, model_->devices[d].name, wrong));
    }

    void store_default(const ParameterSpec& p, std::size_t d) {
        if (p.type == ParameterType::Device || p.type == ParameterType::Colour) {
            p.store(parameters_of(d), kNone);
            return;
        }
        if (p.type == ParameterType::Numbers || p.type == ParameterType::Items) return;
        if (p.type == ParameterType::Choice) {
            const auto found = std::find(p.choices.begin(), p.choices.end(), p.default_text);
            VYARD_CHECK(found != p.choices.end());
            p.store(parameters_of(d), static_cast<int>(found - p.choices.begin()));
            return;
        }
        const auto reading =
            base::read_quantity(p.default_text, p.type == ParameterType::Whole ? Dimension::Plain : p.dimension);
        VYARD_CHECK(reading.fault == base::QuantityFault::None);
        if (p.type == ParameterType::Whole) {
            p.store(parameters_of(d), static_cast<int>(reading.si_value));
        } else {
            p.store(parameters_of(d), reading.si_value);
        }
    }

    std::optional<ParameterValue> parameter(const ParameterSpec& p, const DefinitionValue& value, DeviceModel& device) {
        switch (p.type) {
            case ParameterType::Quantity:
                if (const auto si = read_.quantity(value, p.dimension, p.low, p.high)) return *si;
                return std::nullopt;
            case ParameterType::Whole:
                if (value.form != Form::Number || value.number != std::floor(value.number)) {
                    error(Code::WrongValue, value.place, fmt::format("'{}' takes a whole number", p.name));
                    return std::nullopt;
                }
                if (value.number < p.low || value.number > p.high) {
                    error(Code::OutOfRange, value.place,
                          fmt::format("{} is out of range; accepted: {} to {}", value.number, p.low, p.high));
                    return std::nullopt;
                }
                return static_cast<int>(value.number);
            case ParameterType::Choice: {
                const auto found = std::find(p.choices.begin(), p.choices.end(), value.text);
                if (value.form == Form::Text && found != p.choices.end())
                    return static_cast<int>(found - p.choices.begin());
                const std::string nearest = base::nearest_name(value.text, p.choices);
                error(Code::WrongValue, value.place,
                      fmt::format("'{}' takes one of: {}", p.name, fmt::join(p.choices, ", ")),
                      nearest.empty() ? "" : fmt::format("did you mean '{}'?", nearest));
                return std::nullopt;
            }
            case ParameterType::Device:
                if (const auto found = read_.device_named(value, p.choices, p.name)) return *found;
                return std::nullopt;
            case ParameterType::Items: return read_.item_list(value);
            case ParameterType::Numbers: return read_.number_list(p, value);
            case ParameterType::Colour:
                if (const auto found = read_.find_colour(value)) return *found;
                return std::nullopt;
            case ParameterType::Names: return read_.names(p, value, device);
        }
        return std::nullopt;
    }

    // --- points ---
    void points() {
        int texts = 0;
        for (std::size_t d = 0; d < model_->devices.size(); ++d) {
            DeviceModel& device = model_->devices[d];
            VYARD_CHECK(device.kind->points.size() <= kMaxPoints);
            for (std::size_t s = 0; s < device.kind->points.size(); ++s) {
                const PointSpec& spec = device.kind->points[s];
                if (spec.present && !spec.present(parameters_of(d))) continue;
                device.points[s] = static_cast<int>(model_->points.size());
                const auto [low, high] = spec.range ? spec.range(parameters_of(d)) : std::pair{0.0, 0.0};
                const auto [least, most] = spec.takes ? spec.takes(parameters_of(d)) : std::pair{0.0, 0.0};
                const int text = spec.type == PointType::Text ? texts++ : kNone;
                model_->points.push_back(
                    {device.name + "." + spec.name, static_cast<int>(d), static_cast<int>(s), spec.direction, spec.type,
                     spec.dimension, low, high, text, least, most,
                     spec.contact ? std::optional(spec.contact(parameters_of(d))) : std::nullopt,
                     spec.wire_signal ? spec.wire_signal(parameters_of(d)) : WireSignal::AsTheCard});
            }
            const auto call = [&](auto* act) {
                return StepCall{act, device.model_offset, device.state_offset, static_cast<int>(d)};
            };
            if (device.kind->actuate != nullptr) model_->actuating.push_back(call(device.kind->actuate));
            if (device.kind->sense != nullptr) model_->sensing.push_back(call(device.kind->sense));
        }
        ranges();
        // Actuators look first, so that a switch on one sees where it went in the same step.
        std::stable_partition(model_->sensing.begin(), model_->sensing.end(),
                              [&](const StepCall& c) { return model_->device(c.device).kind->actuate != nullptr; });
        model_->initial.wires.assign(model_->points.size(), 0.0);
        model_->initial.texts.resize(static_cast<std::size_t>(texts));
        model_->initial.going_wrong.assign(model_->devices.size(), 0);
    }

    /// Points whose values are watched against what their devices take and measure.
    void ranges() {
        for (std::size_t p = 0; p < model_->points.size(); ++p) {
            const PointModel& point = model_->points[p];
            const bool input = point.direction == PointDirection::Input;
            const Kind& kind = *model_->device(point.device).kind;
            const auto [low, high] =
                input ? std::pair{point.low, point.high} : std::pair{point.takes_low, point.takes_high};
            const int mishap = input ? kind.beyond_range : kind.cut_off;
            if (mishap == kNone || low >= high) continue;
            model_->ranged.push_back(
                {static_cast<int>(p), point.device, mishap, static_cast<int>(model_->ranged.size()), input, low, high});
        }
        model_->initial.beyond_range.assign(model_->ranged.size(), 0);
    }

    // --- mishaps that are allowed ---
    void allow() {
        for (const AllowedDefinition& a : definition_.allowed) {
            const std::size_t dot = a.mishap.rfind('.');
            const int device = dot == std::string::npos ? kNone : model_->find_device(a.mishap.substr(0, dot));
            if (device == kNone) {
                error(Code::UnknownDevice, a.place, fmt::format("'{}' is not a mishap of a device", a.mishap),
                      dot == std::string::npos ? std::string("write DEVICE.MISHAP, such as infeed.item_fell")
                                               : base::name_hint(a.mishap.substr(0, dot), model_->device_names()));
                continue;
            }
            const Kind& kind = *model_->device(device).kind;
            const int number = find_mishap(kind, a.mishap.substr(dot + 1));
            if (number != kNone && allowance(*model_, device, number) != nullptr) {
                error(Code::DuplicateName, a.place, fmt::format("'{}' is allowed already", a.mishap));
            } else if (number != kNone) {
                model_->allowed.push_back({device, number, a.reason});
            } else {
                std::vector<std::string> known;
                for (const MishapSpec& m : kind.mishaps) known.push_back(m.name);
                error(Code::UnknownName, a.place,
                      fmt::format("{} '{}' has no mishap '{}'", base::with_article(kind.name),
                                  model_->device(device).name, a.mishap.substr(dot + 1)),
                      known.empty() ? std::string("it has none") : base::name_hint(a.mishap.substr(dot + 1), known));
            }
        }
    }

    const PlantDefinition& definition_;
    base::Diagnostics& diagnostics_;
    std::shared_ptr<PlantModel> model_ = std::make_shared<PlantModel>();
    ValueReader read_{*model_, diagnostics_};
    std::vector<const DeviceDefinition*> sources_;
    std::set<int> unusable_;
    std::vector<std::string> left_out_;
};

}  // namespace

CheckedPlant check_plant(const PlantDefinition& definition, base::Diagnostics& diagnostics) {
    PlantDefinition written_out = definition;
    write_out_assemblies(written_out, diagnostics);
    return Builder(written_out, diagnostics).run();
}

std::shared_ptr<const PlantModel> build_plant(const PlantDefinition& definition, base::Diagnostics& diagnostics) {
    const int before = diagnostics.error_count();
    CheckedPlant checked = check_plant(definition, diagnostics);
    return diagnostics.error_count() > before ? nullptr : checked.model;
}

}  // namespace vyard::plant
