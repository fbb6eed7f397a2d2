// The tuning numbers of the plant's physics: value, unit, and what goes wrong on either side.
#pragma once

namespace vyard::plant {

/// m/s2. Standard acceleration of gravity, ISO 80000-3.
inline constexpr double kGravity_m_s2 = 9.80665;

/// m. Bodies count as touching, not overlapping, below this. Smaller: rounding locks items that slide past one
/// another; larger: overlaps that a person could measure.
inline constexpr double kTouch_m = 1e-6;

/// m. An item passes from one surface to the next when their heights differ by no more. Smaller: belts set up by hand
/// drop items at every joint; larger: items climb visible steps.
inline constexpr double kStepUp_m = 0.006;

/// m. How far below a stopper's or pusher's top an item must reach to be held or pushed by it. Smaller: an item grazing
/// it is caught; larger: flat items pass over.
inline constexpr double kCatch_m = 0.002;

/// Friction of an item along a guide that turns it aside. Smaller: items slip along guides that would hold them;
/// larger: they stop at guides that lead them on. Steel or plastic on cardboard lies between 0.2 and 0.4.
inline constexpr double kGuideFriction = 0.25;

/// m. How much further than a touch the lists of neighbours look. Smaller: they are made anew every few steps; larger:
/// they list what is never met.
inline constexpr double kSkin_m = 0.12;

/// m/s. The least speed that is reckoned with, for what falls, is turned or pushed by hand.
inline constexpr double kLeastTopSpeed_m_s = 0.2;

/// Items a plant may hold at once, so that a forgotten infeed does not fill the memory.
inline constexpr unsigned kMaxItems = 20000;

}  // namespace vyard::plant
