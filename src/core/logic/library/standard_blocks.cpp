#include "core/logic/library/standard_blocks.hpp"

#include <tuple>
#include <utility>

namespace vyard::logic {

namespace {

using T = TimerLayout;
using C = CounterLayout;
using G = TriggerLayout;
using B = BistableLayout;

constexpr auto kBool = Elementary::Bool;
constexpr auto kIn = Section::Input;
constexpr auto kOut = Section::Output;

StandardBlock timer(const char* name, const char* summary, Op op) {
    return {name,
            summary,
            op,
            T::size,
            {{"IN", kBool, kIn, T::in},
             {"PT", Elementary::Time, kIn, T::pt},
             {"Q", kBool, kOut, T::q},
             {"ET", Elementary::Time, kOut, T::et}}};
}

StandardBlock trigger(const char* name, const char* summary, Op op) {
    return {name, summary, op, G::size, {{"CLK", kBool, kIn, G::clk}, {"Q", kBool, kOut, G::q}}};
}

Op counted(Op family, Elementary type) {
    return static_cast<Op>(static_cast<int>(family) + static_cast<int>(representation(type)));
}

StandardBlock up(const char* name, Elementary type) {
    const auto bytes = static_cast<std::uint32_t>(type_size(type));
    return {name,
            "up counter: CV counts rising CU, Q when CV >= PV",
            counted(Op::CountUpI8, type),
            C::size(bytes),
            {{"CU", kBool, kIn, C::cu},
             {"R", kBool, kIn, C::reset},
             {"PV", type, kIn, C::pv},
             {"Q", kBool, kOut, C::qu},
             {"CV", type, kOut, C::cv(bytes)}}};
}

StandardBlock down(const char* name, Elementary type) {
    const auto bytes = static_cast<std::uint32_t>(type_size(type));
    return {name,
            "down counter: CV counts down at rising CD, Q when CV <= 0",
            counted(Op::CountDownI8, type),
            C::size(bytes),
            {{"CD", kBool, kIn, C::cd},
             {"LD", kBool, kIn, C::load},
             {"PV", type, kIn, C::pv},
             {"Q", kBool, kOut, C::qd},
             {"CV", type, kOut, C::cv(bytes)}}};
}

StandardBlock up_down(const char* name, Elementary type) {
    const auto bytes = static_cast<std::uint32_t>(type_size(type));
    return {name,
            "up-down counter",
            counted(Op::CountUpDownI8, type),
            C::size(bytes),
            {{"CU", kBool, kIn, C::cu},
             {"CD", kBool, kIn, C::cd},
             {"R", kBool, kIn, C::reset},
             {"LD", kBool, kIn, C::load},
             {"PV", type, kIn, C::pv},
             {"QU", kBool, kOut, C::qu},
             {"QD", kBool, kOut, C::qd},
             {"CV", type, kOut, C::cv(bytes)}}};
}

StandardBlock chart_step() {
    using S = StepLayout;
    return {"CHART_STEP",
            "step of a chart",
            Op::ChartStep,
            S::size,
            {{"ENTER", kBool, kIn, S::enter},
             {"LEAVE", kBool, kIn, S::leave},
             {"X", kBool, kOut, S::x},
             {"T", Elementary::Time, kOut, S::t}}};
}

StandardBlock action_control() {
    using A = ActionLayout;
    return {"ACTION_CONTROL",
            "runs an action of a chart by its qualifiers",
            Op::ActionControl,
            A::size,
            {{"N", kBool, kIn, A::n},
             {"R", kBool, kIn, A::r},
             {"S", kBool, kIn, A::s},
             {"L", kBool, kIn, A::l},
             {"D", kBool, kIn, A::d},
             {"P", kBool, kIn, A::p},
             {"P0", kBool, kIn, A::p0},
             {"P1", kBool, kIn, A::p1},
             {"SD", kBool, kIn, A::sd},
             {"DS", kBool, kIn, A::ds},
             {"SL", kBool, kIn, A::sl},
             {"T", Elementary::Time, kIn, A::t},
             {"Q", kBool, kOut, A::q}}};
}

}  // namespace

const std::vector<StandardBlock>& standard_blocks() {
    using E = Elementary;
    static const std::vector<StandardBlock> blocks = [] {
        constexpr const char* kOn = "on-delay timer: Q follows IN after IN has been TRUE for PT";
        constexpr const char* kOff = "off-delay timer: Q falls PT after IN has fallen";
        constexpr const char* kPulse = "pulse timer: Q is TRUE for PT after IN rises";
        std::vector<StandardBlock> out = {timer("TON", kOn, Op::TimerOn), timer("TOF", kOff, Op::TimerOff),
                                          timer("TP", kPulse, Op::TimerPulse)};
        out.push_back(up("CTU", E::Int));
        out.push_back(down("CTD", E::Int));
        out.push_back(up_down("CTUD", E::Int));
        out.push_back(trigger("R_TRIG", "rising edge: Q is TRUE for one call after CLK rises", Op::RisingTrigger));
        out.push_back(trigger("F_TRIG", "falling edge: Q is TRUE for one call after CLK falls", Op::FallingTrigger));
        out.push_back({"SR",
                       "bistable, set dominant",
                       Op::SetDominant,
                       B::size,
                       {{"S1", kBool, kIn, B::set}, {"R", kBool, kIn, B::reset}, {"Q1", kBool, kOut, B::q}}});
        out.push_back({"RS",
                       "bistable, reset dominant",
                       Op::ResetDominant,
                       B::size,
                       {{"S", kBool, kIn, B::set}, {"R1", kBool, kIn, B::reset}, {"Q1", kBool, kOut, B::q}}});
        out.push_back(timer("TON_TIME", kOn, Op::TimerOn));
        out.push_back(timer("TOF_TIME", kOff, Op::TimerOff));
        out.push_back(timer("TP_TIME", kPulse, Op::TimerPulse));
        for (const auto& [name, text, op] :
             {std::tuple("TON_LTIME", kOn, Op::TimerOn), std::tuple("TOF_LTIME", kOff, Op::TimerOff),
              std::tuple("TP_LTIME", kPulse, Op::TimerPulse)}) {
            StandardBlock block = timer(name, text, op);
            for (StandardField& f : block.fields) {
                if (f.type == E::Time) f.type = E::Ltime;
            }
            out.push_back(std::move(block));
        }
        for (const auto& [name, type] :
             {std::pair("CTU_INT", E::Int), std::pair("CTU_DINT", E::Dint), std::pair("CTU_LINT", E::Lint),
              std::pair("CTU_UDINT", E::Udint), std::pair("CTU_ULINT", E::Ulint)})
            out.push_back(up(name, type));
        for (const auto& [name, type] :
             {std::pair("CTD_INT", E::Int), std::pair("CTD_DINT", E::Dint), std::pair("CTD_LINT", E::Lint),
              std::pair("CTD_UDINT", E::Udint), std::pair("CTD_ULINT", E::Ulint)})
            out.push_back(down(name, type));
        for (const auto& [name, type] :
             {std::pair("CTUD_INT", E::Int), std::pair("CTUD_DINT", E::Dint), std::pair("CTUD_LINT", E::Lint),
              std::pair("CTUD_UDINT", E::Udint), std::pair("CTUD_ULINT", E::Ulint)})
            out.push_back(up_down(name, type));
        out.push_back(chart_step());
        out.push_back(action_control());
        return out;
    }();
    return blocks;
}

}  // namespace vyard::logic
