#include "core/wiring/proposal.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <map>
#include <set>
#include <tuple>
#include <unordered_map>

#include "core/plant/plant.hpp"
#include "core/wiring/name_words.hpp"

namespace vyard::wiring {

namespace {

using base::Code;
using logic::Variable;
using plant::PointDirection;
using plant::PointModel;
using plant::PointType;

constexpr double kNameShare = 0.8;     ///< The rest is for descriptions.
constexpr double kLeastScore = 0.35;   ///< Less is no likeness.
constexpr double kSureMargin = 0.2;    ///< So far ahead of the second best nothing is doubtful.
constexpr double kWellNamed = 0.6;     ///< A join that scores so is not doubted.
constexpr double kOfLittleSay = 0.25;  ///< The weight of a word that tells one wire from another hardly at all.
constexpr double kOnlyOne = 0.5;       ///< How sure the last wire of a kind that a tag names is.
constexpr double kCrosswise = 0.25;    ///< So much better two names have to fit crosswise.

/// Numbers words, so that they are compared once.
class Vocabulary {
  public:
    int number(const std::string& word) {
        const auto [found, fresh] = numbers_.try_emplace(word, static_cast<int>(words_.size()));
        if (fresh) words_.push_back(word);
        return found->second;
    }
    std::vector<int> numbers(std::string_view name) {
        std::vector<int> out;
        for (const std::string& word : words_of(name)) {
            const int n = number(word);
            if (std::find(out.begin(), out.end(), n) == out.end()) out.push_back(n);
        }
        return out;
    }
    const std::string& word(int n) const { return base::at(words_, n); }
    std::size_t size() const { return words_.size(); }

  private:
    std::unordered_map<std::string, int> numbers_;
    std::vector<std::string> words_;
};

struct Wire {
    int point = 0;
    std::vector<int> name, help;
    std::vector<int> kind;  ///< What the device is: "button" of stop_pb; meets, and is not missed.
    int only = -1;          ///< "contact", "signal", "on", "value": a last word that says little.
    double weight = 0.0;    ///< Of its name.
};

struct Candidate {
    int controller = 0, variable = 0;
    const Variable* tag = nullptr;
    std::vector<int> name, description;
};

struct Pair {
    std::size_t tag = 0, wire = 0;
    double score = 0.0;
};

class Matcher {
  public:
    Matcher(const std::vector<controller::ControllerModel>& controllers, const plant::PlantModel& plant,
            const Wiring& wiring)
        : controllers_(controllers), plant_(plant) {
        std::set<std::pair<int, int>> tags;
        std::set<int> points;
        for (const auto* list : {&wiring.inputs, &wiring.outputs}) {
            for (const Join& j : *list) {
                tags.insert({j.controller, j.variable});
                points.insert(j.point);
            }
        }
        for (const Jumper& j : wiring.jumpers) tags.insert({j.controller, j.spot.variable});
        gather_wires(points);
        gather_tags(tags);
        weigh();
    }

    std::vector<Proposal> run() {
        std::vector<Pair> pairs;
        std::vector<double> second_of_tag(tags_.size(), 0.0), best_of_tag(tags_.size(), 0.0);
        std::vector<double> second_of_wire(wires_.size(), 0.0), best_of_wire(wires_.size(), 0.0);
        for (std::size_t t = 0; t < tags_.size(); ++t) {
            for (const std::size_t w : candidates(tags_[t])) {
                if (!suits(*tags_[t].tag, base::at(plant_.points, wires_[w].point))) continue;
                const Pair pair{t, w, score(tags_[t], wires_[w])};
                if (pair.score < kLeastScore) continue;
                rank_into(pair.score, best_of_tag[t], second_of_tag[t]);
                rank_into(pair.score, best_of_wire[w], second_of_wire[w]);
                pairs.push_back(pair);
            }
        }
        // The surest first; where two are alike, the order of declaration on both sides decides.
        const auto key = [](const Pair& p) { return std::tuple(-std::llround(p.score * 1e9), p.wire, p.tag); };
        std::sort(pairs.begin(), pairs.end(), [&](const Pair& a, const Pair& b) { return key(a) < key(b); });
        std::vector<bool> tag_taken(tags_.size(), false), wire_taken(wires_.size(), false);
        std::vector<Proposal> out;
        for (const Pair& pair : pairs) {
            if (tag_taken[pair.tag] || wire_taken[pair.wire]) continue;
            tag_taken[pair.tag] = wire_taken[pair.wire] = true;
            const auto behind = [&](double best, double second) {
                return pair.score >= best - 1e-9 ? pair.score - second : pair.score - best;
            };
            const double margin = std::min(behind(best_of_tag[pair.tag], second_of_tag[pair.tag]),
                                           behind(best_of_wire[pair.wire], second_of_wire[pair.wire]));
            const double sure = std::clamp(margin / kSureMargin, 0.0, 1.0);
            const Candidate& tag = tags_[pair.tag];
            const int point = wires_[pair.wire].point;
            out.push_back({tag.controller, tag.variable, point, std::min(1.0, pair.score) * (0.6 + 0.4 * sure),
                           why(tag, wires_[pair.wire]), needs_scaling(tag, point)});
        }
        only_of_their_kind(tag_taken, wire_taken, out);
        std::stable_sort(out.begin(), out.end(),
                         [](const Proposal& a, const Proposal& b) { return a.confidence > b.confidence; });
        return out;
    }

    /// A tag that names a kind of device ("level_ok") and one wire of that kind that is left, each the other's only
    /// one.
    void only_of_their_kind(const std::vector<bool>& tag_taken, const std::vector<bool>& wire_taken,
                            std::vector<Proposal>& out) {
        std::map<std::size_t, std::vector<std::size_t>> wires_of, tags_of;
        for (std::size_t t = 0; t < tags_.size(); ++t) {
            for (std::size_t w = 0; w < wires_.size() && !tag_taken[t]; ++w) {
                const bool named = std::any_of(tags_[t].name.begin(), tags_[t].name.end(), [&](int word) {
                    return std::find(wires_[w].kind.begin(), wires_[w].kind.end(), word) != wires_[w].kind.end();
                });
                if (wire_taken[w] || !named || !suits(*tags_[t].tag, base::at(plant_.points, wires_[w].point)))
                    continue;
                wires_of[t].push_back(w);
                tags_of[w].push_back(t);
            }
        }
        for (const auto& [t, wires] : wires_of) {
            if (wires.size() != 1 || tags_of[wires[0]].size() != 1) continue;
            const int point = wires_[wires[0]].point;
            const auto& device = base::at(plant_.devices, base::at(plant_.points, point).device);
            out.push_back({tags_[t].controller, tags_[t].variable, point, kOnlyOne,
                           fmt::format("the only {} left", device.kind->name), needs_scaling(tags_[t], point)});
        }
    }

    /// Pairs of joins whose names fit much better crosswise.
    std::vector<std::pair<const Join*, const Join*>> swapped(const std::vector<Join>& joins) {
        std::unordered_map<int, const Join*> by_point;
        std::map<std::pair<int, int>, std::size_t> by_tag;
        for (const Join& j : joins) by_point[j.point] = &j;
        for (std::size_t t = 0; t < tags_.size(); ++t) by_tag[{tags_[t].controller, tags_[t].variable}] = t;
        std::unordered_map<int, std::size_t> wire_of;
        for (std::size_t w = 0; w < wires_.size(); ++w) wire_of[wires_[w].point] = w;
        const auto fit = [&](const Join& tag, const Join& point) {
            const auto t = by_tag.find({tag.controller, tag.variable});
            return t == by_tag.end() ? 1.0 : score(tags_[t->second], wires_[wire_of.at(point.point)]);
        };
        std::vector<std::pair<const Join*, const Join*>> out;
        for (const Join& a : joins) {
            const auto t = by_tag.find({a.controller, a.variable});
            const double own = fit(a, a);
            if (t == by_tag.end() || own > kWellNamed) continue;  // what is named after its point is right
            for (const std::size_t w : candidates(tags_[t->second])) {
                const auto other = by_point.find(wires_[w].point);
                if (other == by_point.end() || other->second <= &a || other->second->type != a.type) continue;
                const Join& b = *other->second;
                if (fit(a, b) > own + kCrosswise && fit(b, a) > fit(b, b) + kCrosswise) out.emplace_back(&a, &b);
            }
        }
        return out;
    }

  private:
    bool needs_scaling(const Candidate& tag, int point) const {
        return base::at(plant_.points, point).type == PointType::Analog && !logic::is_real(tag.tag->type);
    }

    static void rank_into(double score, double& best, double& second) {
        if (score > best) {
            second = best;
            best = score;
        } else {
            second = std::max(second, score);
        }
    }

    void gather_wires(const std::set<int>& joined) {
        for (std::size_t p = 0; p < plant_.points.size(); ++p) {
            if (joined.contains(static_cast<int>(p))) continue;
            const PointModel& point = plant_.points[p];
            const auto& device = base::at(plant_.devices, point.device);
            const auto& spec = base::at(device.kind->points, point.spec);
            Wire wire;
            wire.point = static_cast<int>(p);
            wire.name = words_.numbers(point.name);
            wire.help = words_.numbers(spec.help);
            wire.kind = words_.numbers(device.kind->name);
            for (const int word : wire.kind) wire.help.push_back(word);
            if (!device.positions.empty()) name_position(wire, device, spec.name);
            for (const char* word : {"contact", "signal", "on", "value"}) {
                if (spec.name == word && wire.name.size() > 1) wire.only = wire.name.back();
            }
            wires_.push_back(std::move(wire));
        }
    }

    /// A contact of a selector is known by the position it belongs to: contact_1 as "automatic".
    void name_position(Wire& wire, const plant::DeviceModel& device, const std::string& point) {
        const std::size_t digits = point.find_last_not_of("0123456789") + 1;
        if (digits >= point.size()) return;
        const auto number = static_cast<std::size_t>(std::atoi(point.c_str() + digits));
        if (number >= device.positions.size()) return;
        const std::vector<int> own = words_.numbers(point);
        std::erase_if(wire.name, [&](int word) { return std::find(own.begin(), own.end(), word) != own.end(); });
        for (const int word : words_.numbers(device.positions[number])) wire.name.push_back(word);
    }

    void gather_tags(const std::set<std::pair<int, int>>& joined) {
        for (std::size_t c = 0; c < controllers_.size(); ++c) {
            const auto& variables = controllers_[c].program->variables;
            // Where tags have addresses, one without is no signal; texts come over a bus.
            const bool located = std::any_of(variables.begin(), variables.end(), [](const Variable& v) {
                return v.address.area == logic::Area::Input || v.address.area == logic::Area::Output;
            });
            for (std::size_t v = 0; v < variables.size(); ++v) {
                const Variable& tag = variables[v];
                if (located && tag.address.area == logic::Area::None && !logic::is_text(tag.type)) continue;
                const std::pair key(static_cast<int>(c), static_cast<int>(v));
                if (!tag.is_tag || tag.constant || tag.address.area == logic::Area::Memory || joined.contains(key))
                    continue;
                tags_.push_back(
                    {key.first, key.second, &tag, words_.numbers(tag.path), words_.numbers(tag.description)});
            }
        }
    }

    /// How rare each word is among the points; and the points by word.
    void weigh() {
        std::vector<int> seen(words_.size(), 0);
        points_with_.resize(words_.size());
        for (std::size_t w = 0; w < wires_.size(); ++w) {
            for (const int word : wires_[w].name) {
                ++base::at(seen, word);
                base::at(points_with_, word).push_back(w);
            }
        }
        weights_.resize(words_.size());
        const double all = static_cast<double>(std::max<std::size_t>(wires_.size(), 1));
        for (std::size_t word = 0; word < words_.size(); ++word)
            weights_[word] = std::log(1.0 + all / (1.0 + seen[word])) + 0.1;
        for (Wire& wire : wires_) {
            for (const int word : wire.name) wire.weight += (word == wire.only ? kOfLittleSay : 1.0) * weight(word);
        }
        for (std::size_t word = 0; word < words_.size(); ++word) {
            if (!points_with_[word].empty()) point_words_.push_back(static_cast<int>(word));
        }
    }
    double weight(int word) const { return base::at(weights_, word); }

    double alike(int a, int b) {
        if (a == b) return 1.0;
        const auto key = static_cast<std::uint64_t>(a) << 32 | static_cast<std::uint32_t>(b);
        const auto [found, fresh] = likeness_.try_emplace(key, 0.0);
        if (fresh) found->second = likeness(words_.word(a), words_.word(b));
        return found->second;
    }

    /// Words of points that a tag's word is like.
    const std::vector<int>& words_like(int word) {
        const auto [found, fresh] = like_.try_emplace(word);
        if (fresh) {
            for (const int other : point_words_) {
                if (alike(word, other) > 0.0) found->second.push_back(other);
            }
        }
        return found->second;
    }

    /// Points that share a word with a tag; words that most points have bring none, unless nothing else does.
    std::vector<std::size_t> candidates(const Candidate& tag) {
        std::vector<std::size_t> out;
        for (const bool common : {false, true}) {
            for (const int word : tag.name) {
                for (const int like : words_like(word)) {
                    const auto& list = base::at(points_with_, like);
                    if ((list.size() > kCommon && list.size() * 4 > wires_.size()) == common)
                        out.insert(out.end(), list.begin(), list.end());
                }
            }
            if (!out.empty()) break;
        }
        std::sort(out.begin(), out.end());
        out.erase(std::unique(out.begin(), out.end()), out.end());
        return out;
    }

    static bool suits(const Variable& tag, const PointModel& point) {
        const bool input = point.direction == PointDirection::Input;
        const logic::Area wrong = input ? logic::Area::Output : logic::Area::Input;
        if (tag.address.area == wrong) return false;
        // Without an address, what the logic writes is no input, and what it never writes no output.
        if (tag.address.area == logic::Area::None && tag.written == input) return false;
        switch (point.type) {
            case PointType::Boolean: return tag.type == logic::Elementary::Bool;
            case PointType::Text: return logic::is_text(tag.type);
            case PointType::Number:
            case PointType::Analog: break;
        }
        return logic::is_number(tag.type) || logic::is_bit_string(tag.type);
    }

    /// The share of both names' weight that meets (Dice), then what the descriptions add.
    double score(const Candidate& tag, const Wire& wire) {
        double met = 0.0, of_tag = 0.0;
        for (const int word : tag.name) {
            double best = 0.0;
            int with = -1;
            for (const int other : wire.name) {
                if (const double a = alike(word, other); a > best) best = a, with = other;
            }
            bool by_kind = false;
            for (const int other : wire.kind) {
                if (const double a = 0.9 * alike(word, other); a > best) best = a, with = word, by_kind = true;
            }
            // "ok" or "raw", which no point says, is no reason against one; "button" is little reason for one of many.
            const bool says = !by_kind && (with >= 0 || !words_like(word).empty());
            of_tag += (says ? 1.0 : kOfLittleSay) * weight(word);
            if (with < 0) continue;
            const double least = std::min(weight(word), weight(with));
            met += best * (with == wire.only || by_kind ? kOfLittleSay : 1.0) * least;
        }
        if (met == 0.0) return 0.0;
        // A number on one side that the other lacks is another station's.
        double name = 2.0 * met / (of_tag + wire.weight);
        if (numbers_differ(tag.name, wire.name)) name *= 0.5;
        double helped = 0.0, of_help = 0.0;
        for (const int word : tag.description) {
            of_help += weight(word);
            const auto meets = [&](const std::vector<int>& list) {
                return std::any_of(list.begin(), list.end(), [&](int other) { return alike(word, other) > 0.8; });
            };
            if (meets(wire.name) || meets(wire.help)) helped += weight(word);
        }
        for (const int word : tag.name) {
            if (std::find(wire.help.begin(), wire.help.end(), word) != wire.help.end()) {
                helped += weight(word);
                of_help += weight(word);
            }
        }
        const double help = of_help > 0.0 ? std::min(1.0, 1.5 * helped / of_help) : 0.0;
        return kNameShare * name + (1.0 - kNameShare) * help + (name > 0.8 ? 0.1 : 0.0);
    }

    /// The words that meet, for people.
    std::string why(const Candidate& tag, const Wire& wire) {
        std::string out;
        for (const int word : tag.name) {
            double best = 0.0;
            int with = -1;
            for (const int other : wire.name) {
                if (const double a = alike(word, other); a > best) best = a, with = other;
            }
            if (with >= 0)
                out += fmt::format("{}{}{}", out.empty() ? "" : ", ", words_.word(word),
                                   word == with ? "" : fmt::format("~{}", words_.word(with)));
        }
        return out;
    }

    bool numbers_differ(const std::vector<int>& a, const std::vector<int>& b) const {
        const auto numbers = [&](const std::vector<int>& list) {
            std::vector<int> out;
            for (const int n : list) {
                const char first = words_.word(n)[0];
                if (first >= '0' && first <= '9') out.push_back(n);
            }
            std::sort(out.begin(), out.end());
            return out;
        };
        return numbers(a) != numbers(b);
    }

    static constexpr std::size_t kCommon = 50;  ///< Points that may always be looked through.

    const std::vector<controller::ControllerModel>& controllers_;
    const plant::PlantModel& plant_;
    Vocabulary words_;
    std::vector<Wire> wires_;
    std::vector<Candidate> tags_;
    std::vector<double> weights_;
    std::vector<int> point_words_;
    std::vector<std::vector<std::size_t>> points_with_;
    std::unordered_map<std::uint64_t, double> likeness_;
    std::unordered_map<int, std::vector<int>> like_;
};

}  // namespace

std::vector<Proposal> propose(const std::vector<controller::ControllerModel>& controllers,
                              const plant::PlantModel& plant, const Wiring& wiring) {
    return Matcher(controllers, plant, wiring).run();
}

std::vector<std::pair<const Join*, const Join*>> likely_swapped(
    const std::vector<controller::ControllerModel>& controllers, const plant::PlantModel& plant, const Wiring& wiring) {
    Matcher matcher(controllers, plant, {});
    auto out = matcher.swapped(wiring.inputs);
    const auto outputs = matcher.swapped(wiring.outputs);
    out.insert(out.end(), outputs.begin(), outputs.end());
    return out;
}

void warn_swapped(const std::vector<controller::ControllerModel>& controllers, const plant::PlantModel& plant,
                  const Wiring& wiring, const base::Place& map_place, base::Diagnostics& diagnostics) {
    const auto tag = [&](const Join& j) {
        return base::at(base::at(controllers, j.controller).program->variables, j.variable).path;
    };
    const auto point = [&](const Join& j) { return base::at(plant.points, j.point).name; };
    for (const auto& [a, b] : likely_swapped(controllers, plant, wiring)) {
        diagnostics.warning(Code::LikelySwapped, map_place,
                            fmt::format("'{}' is joined to '{}' and '{}' to '{}': by their names it is the other way "
                                        "round",
                                        tag(*a), point(*a), tag(*b), point(*b)));
    }
}

}  // namespace vyard::wiring
