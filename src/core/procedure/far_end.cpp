#include "core/procedure/far_end.hpp"

#include <fmt/format.h>

#include <charconv>

namespace vyard::procedure {

using base::Nanoseconds;
using namespace std::chrono_literals;

namespace {

constexpr Nanoseconds kEcho = 1s;  ///< So long an echo may take beyond what the link itself takes.

/// TRUE, FALSE or a number, as people type it.
std::optional<double> number_typed(const std::string& text) {
    const std::string folded = base::fold(text);
    if (folded == "true" || folded == "on") return 1.0;
    if (folded == "false" || folded == "off") return 0.0;
    double out = 0.0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), out);
    return error == std::errc() && end == text.data() + text.size() ? std::optional(out) : std::nullopt;
}

int echo_of(const JoinView& join) {
    const auto& link = base::at(join.model.controllers, join.join.controller).link;
    for (const controller::Echo& e : link->echoes) {
        if (e.input == join.join.variable) return e.echo;
    }
    return -1;
}

}  // namespace

bool FarEnd::up(const JoinView& join) const {
    return session_.controller(join.join.controller).link.up;
}

Told FarEnd::lost(const JoinView& join) const {
    return {false, "",
            fmt::format("the link to {} is lost", base::at(join.model.controllers, join.join.controller).name)};
}

double FarEnd::tag_value(const wiring::Join& join) const {
    return wiring::tag_value(join, session_.controller(join.controller).memory.data());
}

Nanoseconds FarEnd::there_and_back(const JoinView& join) const {
    const auto& controller = base::at(join.model.controllers, join.join.controller);
    Nanoseconds out = 3 * std::max(controller.scan, controller.link->period) + controller.link->fresh;
    if (join.join.channel >= 0) {
        const auto& channel = base::at(join.model.wiring.channels, join.join.channel);
        const wiring::Module& m = base::at(join.model.wiring.modules, channel.module);
        out += m.filter + m.delay + m.update;
    }
    return out;
}

Told FarEnd::nobody(const char* to) const {
    return {false, "", ended() ? "left out by hand" : fmt::format("nobody was there {}", to)};
}

FarEnd::Reply FarEnd::step(bool asks) {
    const Nanoseconds before = session_.now();
    session_.step();
    if (!asks) return Reply::None;
    const auto line = person_.answer(session_.now() - before);
    if (!line) return Reply::None;
    typed_ = *line;
    const std::string folded = base::fold(typed_);
    if (folded == "q" || folded == "quit") ends_ = true;
    if (ends_ || folded == "s" || folded == "skip") return Reply::Skip;
    if (folded.empty() || folded == "y" || folded == "yes") return Reply::Yes;
    return folded == "n" || folded == "no" ? Reply::No : Reply::Other;
}

void FarEnd::pass(Nanoseconds time) {
    const Nanoseconds end = session_.now() + time;
    while (session_.now() < end && !ended()) step(false);
}

Told FarEnd::input(const JoinView& join, double value, const std::string& given, const std::string& expected,
                   const std::function<bool(double)>& right) {
    const int echo = echo_of(join);
    if (echo < 0 && alone()) return nobody("to say what its tag reads");
    session_.set_point_fault(join.join.point, plant::Defect::Stuck, value);
    pass(there_and_back(join));  // nobody is asked of what was there before
    Told out = echo >= 0 ? by_echo(join, echo, right) : by_person(join, given, expected, right);
    session_.heal_point(join.join.point);
    return out;
}

Told FarEnd::by_echo(const JoinView& join, int echo, const std::function<bool(double)>& right) {
    const auto& program = *base::at(join.model.controllers, join.join.controller).program;
    wiring::Join at_echo = join.join;
    at_echo.variable = echo;
    at_echo.offset = join.join.offset - join.tag().offset + base::at(program.variables, echo).offset;
    if (!wiring::states_swapping(join.statement())) at_echo.order = {};  // it holds what the input holds
    const Nanoseconds end = session_.now() + kEcho;
    while (!right(tag_value(at_echo)) && session_.now() < end && !ended()) step(false);
    if (ended()) return {false, "", "left out by hand"};
    if (!up(join)) return lost(join);
    const double seen = tag_value(at_echo);
    return {right(seen), logic::value_text(logic::value_of(join.join.type, seen)), ""};
}

Told FarEnd::by_person(const JoinView& join, const std::string& given, const std::string& expected,
                       const std::function<bool(double)>& right) {
    person_.tell(fmt::format("{} is {}. Does {} read {} there? [y]es, [n]o, what it reads, [s]kip, [q]uit: ",
                             join.point().name, given, join.tag_name(), expected));
    while (!alone()) {
        const Reply reply = step(true);
        if (reply == Reply::None) continue;
        if (reply == Reply::Skip) return {false, "", "left out by hand"};
        if (!up(join)) return lost(join);
        if (reply == Reply::Yes) return {true, expected, ""};
        if (reply == Reply::No) return {false, "not " + expected, ""};
        if (const auto number = number_typed(typed_)) return {right(*number), typed_, ""};
        person_.tell(fmt::format("'{}' is no answer: y, n, TRUE, FALSE, a number, s or q: ", typed_));
    }
    person_.tell("\n");
    return nobody("to say what its tag reads");
}

Told FarEnd::output(const JoinView& join, const std::string& value, const std::function<bool(double)>& is_value,
                    const std::function<bool(double)>& right) {
    if (alone()) return nobody("to set its tag");
    if (!is_value(tag_value(join.join)))
        person_.tell(fmt::format("Set {} to {} there; it goes on when that comes. Enter: it is set, [s]kip, [q]uit: ",
                                 join.tag_name(), value));
    Reply reply = Reply::None;
    bool said = false;
    while (!is_value(tag_value(join.join)) && reply != Reply::Yes && reply != Reply::Skip && !alone()) {
        said = true;
        reply = step(true);
        if (reply == Reply::No || reply == Reply::Other)
            person_.tell("Enter when it is set, s to leave it out, q to end: ");
    }
    if (reply == Reply::Skip) return {false, "", "left out by hand"};
    if (alone()) {
        person_.tell("\n");
        return nobody("to set its tag");
    }
    if (said && reply == Reply::None) person_.tell("it came\n");
    pass(there_and_back(join));
    if (!up(join)) return lost(join);
    const double seen = session_.plant().shown(join.join.point);
    const bool came = is_value(tag_value(join.join));
    return {came && right(seen), came ? join.plant_text(seen) : join.plant_text(seen) + "; the tag did not come", ""};
}

}  // namespace vyard::procedure
