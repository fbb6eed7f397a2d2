#include "native_line.hpp"

#include <algorithm>

namespace vyard::bench {

namespace {

constexpr std::int64_t kMillisecond = 1'000'000;

bool rose(bool now, bool& was) {
    const bool edge = now && !was;
    was = now;
    return edge;
}

}  // namespace

void NativeTimer::on_delay(bool in, std::int64_t preset, std::int64_t now) {
    if (!in) {
        active = q = false;
        et = 0;
        return;
    }
    if (!active) {
        active = true;
        start = now;
    }
    q = now - start >= preset;
    et = std::min(now - start, preset);
}

void NativeTimer::off_delay(bool in, std::int64_t preset, std::int64_t now) {
    if (in) {
        q = true;
        active = false;
        et = 0;
        return;
    }
    if (!q) return;
    if (!active) {
        active = true;
        start = now;
    }
    q = now - start < preset;
    et = std::min(now - start, preset);
}

void NativeLine::scan(std::int64_t now) {
    modes(now);
    dip_station(now);
    reject(now);
    glaze_and_panel(now);
}

void NativeLine::modes(std::int64_t now) {
    const bool start_edge = rose(start_pb, start_was), reset_edge = rose(reset_pb, reset_was);
    no_feedback.on_delay(agitator_run && !agitator_running, 2000 * kMillisecond, now);
    low_glaze.on_delay(!glaze_low, 2000 * kMillisecond, now);
    if (alarm_code == 0) {
        if (!estop_ok) {
            alarm_code = 1;
        } else if (!agitator_healthy || no_feedback.q) {
            alarm_code = 2;
        } else if (low_glaze.q && line_run) {
            alarm_code = 9;
        }
    } else if (reset_edge && estop_ok && agitator_healthy) {
        alarm_code = 0;
    }
    line_run = (line_run || start_edge) && stop_pb && estop_ok && mode_auto && alarm_code == 0;
    jog = start_pb && stop_pb && estop_ok && !mode_auto && alarm_code == 0;
}

void NativeLine::dip_station(std::int64_t now) {
    dwell_time = (1000 + (dwell_raw - 4000) / 4) * kMillisecond;
    const bool restart = rose(line_run, run_was);
    if (restart) on_the_way = false;
    at_stop.on_delay(dip_eye, 300 * kMillisecond, now);
    const bool passed = !gate_eye && gate_was;
    gate_was = gate_eye;
    if (passed && dip_step == 10) {
        on_the_way = true;
    } else if (dip_eye) {
        on_the_way = false;
    }
    travel.on_delay(on_the_way && line_run, 5000 * kMillisecond, now);
    dwelling.on_delay(dip_step == 40, dwell_time, now);
    clear.on_delay(line_run && dip_step == 70 && !dip_eye, 1500 * kMillisecond, now);
    if (restart && dip_step != 70) {
        dip_step = 50;
    } else if (line_run) {
        switch (dip_step) {
            case 10:
                if (at_stop.q) dip_step = 20;
                break;
            case 20:
                if (clamp_grip) dip_step = 30;
                break;
            case 30:
                if (lift_bottom) dip_step = 40;
                break;
            case 40:
                if (dwelling.q) dip_step = 50;
                break;
            case 50:
                if (lift_top) dip_step = 60;
                break;
            case 60:
                if (clamp_open) dip_step = dip_eye ? 70 : 10;
                break;
            case 70:
                if (clear.q) dip_step = 10;
                break;
            default: break;
        }
    }
    watch.on_delay(line_run && dip_step != 10 && dip_step != 40 && dip_step == watched, 4000 * kMillisecond, now);
    watched = dip_step;
    if (alarm_code == 0) {
        if (travel.q) {
            alarm_code = 3;
        } else if (watch.q) {
            switch (dip_step) {
                case 20:
                case 60: alarm_code = 4; break;
                case 30: alarm_code = 5; break;
                case 50: alarm_code = 6; break;
                case 70: alarm_code = 7; break;
                default: break;
            }
        }
    }
    if (alarm_code == 3) on_the_way = false;
    const bool holds = dip_step == 20 || dip_step == 30 || dip_step == 40 || dip_step == 50;
    infeed_run = (line_run && (dip_step == 10 || !gate_eye) && lift_top && dip_step != 30) || (jog && lift_top);
    dip_run = line_run && (dip_step == 10 || dip_step == 70);
    drip_run = line_run;
    stop_raise = dip_step != 70;
    clamp_close = holds && (clamp_close || dip_step == 20);
    lift_down = line_run && (dip_step == 30 || dip_step == 40);
    lift_up = line_run && dip_step == 50;
}

void NativeLine::reject(std::int64_t now) {
    if (colour_seen == 1) uncoated = true;
    if (rose(push_eye, push_was) && uncoated && line_run) {
        pushing = true;
        uncoated = false;
    }
    if (reject_out && pushing) {
        pushing = false;
        ++rejected;
    }
    push_watch.on_delay(pushing, 1500 * kMillisecond, now);
    if (push_watch.q) {
        pushing = false;
        if (alarm_code == 0) alarm_code = 8;
    }
    reject_push = pushing && estop_ok;
    if (reset_pb && !line_run) {
        exit_count = 0;
        exit_was = exit_eye;
    } else if (rose(exit_eye, exit_was)) {
        ++exit_count;
    }
}

void NativeLine::glaze_and_panel(std::int64_t now) {
    level_m = (static_cast<float>(level_raw) - 4000.0F) / 16000.0F * 0.6F;
    if (!(estop_ok && glaze_not_high) || level_m >= 0.48F) {
        topping = false;
    } else if (level_m <= 0.44F) {
        topping = true;
    }
    fill_open = topping;
    run_on.off_delay(line_run, 10'000 * kMillisecond, now);
    agitator_run = run_on.q && estop_ok && agitator_healthy;
    blink.on_delay(!blink.q, 400 * kMillisecond, now);
    if (blink.q) phase = !phase;
    if (alarm_code != last_alarm) silence = false;
    last_alarm = alarm_code;
    if (reset_pb) silence = true;
    run_lamp = line_run;
    alarm_lamp = alarm_code != 0 && (phase || silence);
    horn = alarm_code != 0 && !silence;
    ready_lamp = !line_run && alarm_code == 0 && mode_auto && stop_pb && estop_ok && lift_top;
}

}  // namespace vyard::bench
