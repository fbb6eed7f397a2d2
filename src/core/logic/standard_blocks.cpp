#include "core/logic/standard_blocks.hpp"

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

}  // namespace

const std::vector<StandardBlock>& standard_blocks() {
    static const std::vector<StandardBlock> blocks = {
        timer("TON", "on-delay timer: Q follows IN after IN has been TRUE for PT", Op::TimerOn),
        timer("TOF", "off-delay timer: Q falls PT after IN has fallen", Op::TimerOff),
        timer("TP", "pulse timer: Q is TRUE for PT after IN rises", Op::TimerPulse),
        {"CTU",
         "up counter: CV counts rising CU, Q when CV >= PV",
         Op::CountUp,
         C::size,
         {{"CU", kBool, kIn, C::cu},
          {"R", kBool, kIn, C::reset},
          {"PV", Elementary::Int, kIn, C::pv},
          {"Q", kBool, kOut, C::qu},
          {"CV", Elementary::Int, kOut, C::cv}}},
        {"CTD",
         "down counter: CV counts down at rising CD, Q when CV <= 0",
         Op::CountDown,
         C::size,
         {{"CD", kBool, kIn, C::cd},
          {"LD", kBool, kIn, C::load},
          {"PV", Elementary::Int, kIn, C::pv},
          {"Q", kBool, kOut, C::qd},
          {"CV", Elementary::Int, kOut, C::cv}}},
        {"CTUD",
         "up-down counter",
         Op::CountUpDown,
         C::size,
         {{"CU", kBool, kIn, C::cu},
          {"CD", kBool, kIn, C::cd},
          {"R", kBool, kIn, C::reset},
          {"LD", kBool, kIn, C::load},
          {"PV", Elementary::Int, kIn, C::pv},
          {"QU", kBool, kOut, C::qu},
          {"QD", kBool, kOut, C::qd},
          {"CV", Elementary::Int, kOut, C::cv}}},
        trigger("R_TRIG", "rising edge: Q is TRUE for one call after CLK rises", Op::RisingTrigger),
        trigger("F_TRIG", "falling edge: Q is TRUE for one call after CLK falls", Op::FallingTrigger),
        {"SR",
         "bistable, set dominant",
         Op::SetDominant,
         B::size,
         {{"S1", kBool, kIn, B::set}, {"R", kBool, kIn, B::reset}, {"Q1", kBool, kOut, B::q}}},
        {"RS",
         "bistable, reset dominant",
         Op::ResetDominant,
         B::size,
         {{"S", kBool, kIn, B::set}, {"R1", kBool, kIn, B::reset}, {"Q1", kBool, kOut, B::q}}},
    };
    return blocks;
}

}  // namespace vyard::logic
