#include "live/screen/completion.hpp"

#include <algorithm>
#include <map>
#include <set>

#include "files/list_file.hpp"
#include "live/screen/panels.hpp"

namespace vyard::live {

namespace {

using Names = std::vector<std::string>;

/// The line in words; the last is the one that is being written, "" behind a blank.
Names split(const std::string& line) {
    Names out(1);
    for (const char c : line) {
        if (c == ' ' || c == ',' || c == '(') {
            if (!out.back().empty()) out.emplace_back();
        } else {
            out.back() += c;
        }
    }
    return out;
}

class Choices {
  public:
    explicit Choices(const Sitting& sitting)
        : sitting_(sitting), model_(sitting.desk().session().model()), plant_(*model_.plant) {}

    Names of(const Names& words) const {
        if (words.size() == 1) {
            Names out = Sitting::words();
            for (const char* word : {"unit", "panel"}) out.emplace_back(word);  // of the screen alone
            return out;
        }
        const std::string verb = base::fold(words[0]);
        const std::string before = base::fold(words[words.size() - 2]);
        const std::size_t n = words.size() - 1;  // the word that is being written
        if (is_control(verb)) return control(verb, before, words, n);
        if (verb == "fault" || verb == "heal") return fault(verb, words, n);
        if (verb == "take" || verb == "place" || verb == "shift" || verb == "swap") return item(before);
        if (verb == "procedure") return procedures();
        if (verb == "list") return n == 1 ? files::list_names(sitting_.options().folder) : Names{"write"};
        if (verb == "unit") return LogicPanel::unit_names(sitting_);
        if (verb == "panel") return {"plant", "watch", "logic", "operator", "messages"};
        if (verb == "unwatch") return unwatch();
        if (const auto found = fixed().find(verb); found != fixed().end() && n == 1) return found->second;
        if (verb == "power" || verb == "stop" || verb == "start" || verb == "run" || verb == "restart")
            return controllers(verb);
        if (verb == "force" || verb == "unforce" || verb == "write") return n == 1 ? tags() : Names{};
        Names out = session::signal_names(model_);
        const Names own = verb == "watch" ? Names{"band", "every", "hex", "binary", "decimal", "signed", "time"}
                                          : Names{"within", "for", "not", "and", "or", "rises", "falls"};
        if (n > 1) out.insert(out.end(), own.begin(), own.end());
        return out;
    }

  private:
    static const std::map<std::string, Names>& fixed() {
        static const std::map<std::string, Names> all = {
            {"forces", {"on", "off"}}, {"power", {"on", "off"}},      {"restart", {"cold", "warm"}},
            {"everything", {"reset"}}, {"pace", {"1", "0.1", "max"}}, {"reload", {"anyway", "undo", "by", "on"}},
            {"record", {"on", "off"}}, {"rules", {"again"}},          {"quit", {"anyway"}},
            {"wait", {"until"}},       {"rewind", {"until"}},         {"measure", {"from"}}};
        return all;
    }

    bool is_control(const std::string& verb) const {
        for (const plant::DeviceModel& d : plant_.devices) {
            if (d.kind->find_control(verb) != nullptr) return true;
        }
        return false;
    }
    Names control(const std::string& verb, const std::string& before, const Names& words, std::size_t n) const {
        Names out;
        if (n == 1) {
            for (const plant::DeviceModel& d : plant_.devices) {
                if (d.kind->find_control(verb) != nullptr) out.push_back(d.name);
            }
            return out;
        }
        const int device = plant_.find_device(base::fold(words[1]));
        if (before == "to" && device != plant::kNone) return plant_.device(device).positions;
        return {"to", "for"};
    }
    Names fault(const std::string& verb, const Names& words, std::size_t n) const {
        Names out;
        if (n == 1) {
            out = plant_.device_names();
            for (const std::string& p : plant_.point_names()) out.push_back(p);
            if (verb == "heal") out.emplace_back("all");
            return out;
        }
        const int device = plant_.find_device(base::fold(words[1]));
        if (device != plant::kNone) {
            for (const plant::FaultSpec& f : plant_.device(device).kind->faults) out.push_back(f.name);
        }
        for (const plant::DefectSpec& d : plant::defects()) out.emplace_back(d.name);
        for (const char* w : {"on", "off", "at", "for", "every"}) out.emplace_back(w);
        return out;
    }
    Names item(const std::string& before) const {
        Names out{"from", "on", "at", "by", "for", "item", "colour"};
        for (const plant::ItemType& t : plant_.item_types) out.push_back(t.name);
        if (before == "on" || before == "from") {
            out.clear();
            for (const plant::DeviceModel& d : plant_.devices) {
                if (d.surface != plant::kNone) out.push_back(d.name);
            }
        }
        if (before == "colour") out = plant_.colours;
        return out;
    }
    Names procedures() const {
        Names out;
        if (sitting_.desk().version().book == nullptr) return out;
        for (const auto& p : sitting_.desk().version().book->procedures) out.push_back(p.name);
        return out;
    }
    Names unwatch() const {
        Names out{"all"};
        for (const Watched& w : sitting_.desk().watched()) out.push_back(w.name);
        return out;
    }
    Names controllers(const std::string& verb) const {
        Names out;
        for (const auto& c : model_.controllers) out.push_back(c.name);
        if (verb == "start") out.emplace_back("warm");
        return out;
    }
    Names tags() const {
        Names out{"all"};
        for (const auto& c : model_.controllers) {
            for (const logic::Variable& v : c.program->variables) out.push_back(v.path);
        }
        return out;
    }

    const Sitting& sitting_;
    const session::SessionModel& model_;
    const plant::PlantModel& plant_;
};

}  // namespace

Completion complete(const Sitting& sitting, const std::string& line) {
    const Names words = split(line);
    // A procedure's name has blanks: the whole of what follows is its beginning.
    const bool whole = base::fold(words[0]) == "procedure" && words.size() > 1;
    const std::string begun = whole ? first_word(line).second : words.back();
    Completion out;
    out.replaced = begun.size();
    const std::string folded = base::fold(begun);
    std::set<std::string> seen;
    for (std::string& name : Choices(sitting).of(words)) {
        if (base::fold(name).starts_with(folded) && seen.insert(name).second) out.choices.push_back(std::move(name));
    }
    std::sort(out.choices.begin(), out.choices.end());
    // Names within blocks are many: those with fewer parts come first, and where some fit, the rest waits for a dot.
    for (std::size_t i = 0; i < out.choices.size(); ++i) {
        const std::string& c = out.choices[i];
        if (i == 0) out.common = c;
        std::size_t k = 0;
        while (k < out.common.size() && k < c.size() &&
               base::fold(c.substr(k, 1)) == base::fold(out.common.substr(k, 1)))
            ++k;
        out.common.resize(k);
    }
    return out;
}

}  // namespace vyard::live
