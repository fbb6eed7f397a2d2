// The logic of the glaze line written by hand in C++: the limit that the machine's scan is measured against.
#pragma once

#include <cstdint>

namespace vyard::bench {

struct NativeTimer {
    bool active = false, q = false;
    std::int64_t start = 0, et = 0;
    void on_delay(bool in, std::int64_t preset, std::int64_t now);
    void off_delay(bool in, std::int64_t preset, std::int64_t now);
};

/// Signals and memory of the whole program; fields as in examples/glaze-line/logic.
struct NativeLine {
    bool start_pb = false, stop_pb = true, reset_pb = false, estop_ok = true, mode_auto = true;
    bool gate_eye = false, dip_eye = false, push_eye = false, exit_eye = false, clamp_open = true, clamp_grip = false;
    bool lift_top = true, lift_bottom = false, reject_out = false, glaze_low = true, glaze_not_high = true,
         agitator_running = true, agitator_healthy = true;
    std::int16_t dwell_raw = 8000, level_raw = 16000, colour_seen = 0;

    bool infeed_run = false, dip_run = false, drip_run = false, stop_raise = false, clamp_close = false,
         lift_down = false, lift_up = false;
    bool reject_push = false, fill_open = false, agitator_run = false, run_lamp = false, alarm_lamp = false,
         ready_lamp = false, horn = false;
    std::int16_t exit_count = 0;

    bool line_run = false, jog = false;
    std::int16_t alarm_code = 0, dip_step = 50, rejected = 0;
    float level_m = 0;
    std::int64_t dwell_time = 0;

    bool start_was = false, reset_was = false, run_was = false, gate_was = false, push_was = false, exit_was = false;
    bool on_the_way = false, uncoated = false, pushing = false, topping = false, phase = false, silence = false;
    std::int16_t watched = 0, last_alarm = 0;
    NativeTimer no_feedback, low_glaze, at_stop, travel, dwelling, clear, watch, push_watch, run_on, blink;

    void scan(std::int64_t now);

  private:
    void modes(std::int64_t now);
    void dip_station(std::int64_t now);
    void reject(std::int64_t now);
    void glaze_and_panel(std::int64_t now);
};

}  // namespace vyard::bench
