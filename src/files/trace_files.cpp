#include "files/trace_files.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace vyard::files {

using logic::Elementary;

namespace {

/// A short printable code: base 94 over '!'..'~'.
std::string identifier(std::size_t n) {
    std::string out;
    do {
        out += static_cast<char>('!' + n % 94);
        n /= 94;
    } while (n > 0);
    return out;
}

std::vector<std::string> scope_path(const trace::Channel& channel) {
    std::vector<std::string> parts = {channel.signal.of_plant() ? "plant" : "logic"};
    std::size_t begin = 0;
    for (std::size_t dot = channel.name.find('.'); dot != std::string::npos; dot = channel.name.find('.', begin)) {
        parts.push_back(channel.name.substr(begin, dot - begin));
        begin = dot + 1;
    }
    parts.push_back(channel.name.substr(begin));
    return parts;
}

bool is_real(const trace::Channel& c) {
    return logic::is_real(c.signal.type);
}
int width(const trace::Channel& c) {
    return c.signal.type == Elementary::Bool ? 1 : logic::type_size(c.signal.type) * 8;
}

void value_line(std::string& out, const trace::Channel& channel, std::size_t number, double value) {
    auto to = std::back_inserter(out);
    if (channel.signal.type == Elementary::Bool) {
        fmt::format_to(to, "{}{}\n", value != 0.0 ? 1 : 0, identifier(number));
    } else if (is_real(channel)) {
        fmt::format_to(to, "r{} {}\n", value, identifier(number));
    } else {
        const int bits = width(channel);
        auto raw = static_cast<std::uint64_t>(static_cast<std::int64_t>(value));
        if (bits < 64) raw &= (std::uint64_t{1} << bits) - 1;
        fmt::format_to(to, "b{:b} {}\n", raw, identifier(number));
    }
}

std::string declarations(const trace::Trace& trace) {
    std::vector<std::size_t> order(trace.channels.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::vector<std::vector<std::string>> paths;
    for (const trace::Channel& c : trace.channels) paths.push_back(scope_path(c));
    // Names before scopes inside each scope, so that every scope is opened once.
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        const std::vector<std::string> scope_a(paths[a].begin(), paths[a].end() - 1),
            scope_b(paths[b].begin(), paths[b].end() - 1);
        return scope_a < scope_b;
    });
    std::string out;
    std::vector<std::string> open;
    for (const std::size_t n : order) {
        const std::vector<std::string> scope(paths[n].begin(), paths[n].end() - 1);
        std::size_t common = 0;
        while (common < open.size() && common < scope.size() && open[common] == scope[common]) ++common;
        for (; open.size() > common; open.pop_back()) out += "$upscope $end\n";
        for (; open.size() < scope.size(); open.push_back(scope[open.size()]))
            out += fmt::format("$scope module {} $end\n", scope[open.size()]);
        const trace::Channel& c = trace.channels[n];
        out += fmt::format("$var {} {} {} {} $end\n", is_real(c) ? "real" : "wire", is_real(c) ? 64 : width(c),
                           identifier(n), paths[n].back());
    }
    for (; !open.empty(); open.pop_back()) out += "$upscope $end\n";
    return out;
}

double csv_value(const trace::Channel& c, double value) {
    return logic::is_duration(c.signal.type) && !c.signal.of_plant() ? value / 1e9 : value;
}

}  // namespace

std::string vcd_text(const trace::Trace& trace) {
    std::string out =
        "$version Vivid Yard $end\n$timescale 1 us $end\n" + declarations(trace) + "$enddefinitions $end\n";
    bool first = true;
    base::Nanoseconds at{-1};
    for (const trace::Change& c : trace.changes) {
        if (c.time != at) {
            if (!first && at == trace.begin) out += "$end\n";
            at = c.time;
            out += fmt::format("#{}\n", at.count() / 1000);
            if (first) out += "$dumpvars\n";
            first = false;
        }
        value_line(out, trace.channels[c.channel], c.channel, c.value);
    }
    if (!first && at == trace.begin) out += "$end\n";
    if (trace.end > at) out += fmt::format("#{}\n", trace.end.count() / 1000);
    return out;
}

std::string csv_text(const trace::Trace& trace) {
    std::string out = "time_s";
    for (const trace::Channel& c : trace.channels) out += "," + c.name;
    out += '\n';
    std::vector<double> values(trace.channels.size(), 0.0);
    const auto row = [&](base::Nanoseconds time) {
        auto to = std::back_inserter(out);
        fmt::format_to(to, "{}", base::to_seconds(time));
        for (std::size_t c = 0; c < values.size(); ++c)
            fmt::format_to(to, ",{}", csv_value(trace.channels[c], values[c]));
        out += '\n';
    };
    for (std::size_t i = 0; i < trace.changes.size(); ++i) {
        values[trace.changes[i].channel] = trace.changes[i].value;
        const bool last = i + 1 == trace.changes.size() || trace.changes[i + 1].time != trace.changes[i].time;
        if (last) row(trace.changes[i].time);
    }
    return out;
}

std::string watch_text(const trace::WatchTable& table) {
    const auto cell = [](const std::string& text) {
        if (text.find_first_of(",\"\n") == std::string::npos) return text;
        std::string doubled;
        for (const char c : text) doubled.append(c == '"' ? 2U : 1U, c);
        return fmt::format("\"{}\"", doubled);
    };
    std::string out = "time_s";
    for (const std::string& name : table.names) out += fmt::format(",{}", cell(name));
    out += '\n';
    for (const trace::WatchTable::Row& row : table.rows) {
        out += fmt::format("{}", base::to_seconds(row.time));
        for (const std::string& value : row.values) out += fmt::format(",{}", cell(value));
        out += '\n';
    }
    return out;
}

}  // namespace vyard::files
