#include "files/trace_files.hpp"

#include <fmt/format.h>

#include <algorithm>
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

const char* kind_of(const trace::Channel& c) {
    return logic::is_text(c.signal.type) ? "string" : logic::is_real(c.signal.type) ? "real" : "wire";
}
int width(const trace::Channel& c) {
    if (logic::is_text(c.signal.type)) return 1;
    if (logic::is_real(c.signal.type)) return 64;
    return c.signal.type == Elementary::Bool ? 1 : logic::type_size(c.signal.type) * 8;
}

/// Printable, without blanks, as values of VCD are.
std::string escaped(std::string_view text) {
    std::string out;
    for (const char c : text) {
        if (c > ' ' && c <= '~' && c != '\\') {
            out += c;
        } else {
            out += fmt::format("\\{:03o}", static_cast<unsigned>(static_cast<unsigned char>(c)));
        }
    }
    return out;
}

std::string value_line(std::size_t number, const logic::Value& value) {
    const std::string id = identifier(number);
    if (logic::is_text(value.type)) return fmt::format("s{} {}\n", escaped(value.text), id);
    if (value.type == Elementary::Bool) return fmt::format("{}{}\n", value.bits != 0 ? 1 : 0, id);
    if (logic::is_real(value.type)) return fmt::format("r{} {}\n", logic::number_of(value), id);
    return fmt::format("b{:b} {}\n", value.bits, id);
}

std::string declarations(const std::vector<trace::Channel>& channels) {
    std::vector<std::size_t> order(channels.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::vector<std::vector<std::string>> paths;
    paths.reserve(channels.size());
    for (const trace::Channel& c : channels) paths.push_back(scope_path(c));
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
        const trace::Channel& c = channels[n];
        out += fmt::format("$var {} {} {} {} $end\n", kind_of(c), width(c), identifier(n), paths[n].back());
    }
    for (; !open.empty(); open.pop_back()) out += "$upscope $end\n";
    return out;
}

}  // namespace

void VcdSink::begin(const std::vector<trace::Channel>& channels, base::Nanoseconds time) {
    out_("$version Vivid Yard $end\n$timescale 1 us $end\n" + declarations(channels) + "$enddefinitions $end\n");
    begin_ = at_ = time;
    if (channels.empty()) return;
    out_(fmt::format("#{}\n$dumpvars\n", time.count() / 1000));
    dumping_ = true;
}

void VcdSink::go_to(base::Nanoseconds time) {
    if (time == at_) return;
    if (dumping_) out_("$end\n");
    dumping_ = false;
    at_ = time;
    out_(fmt::format("#{}\n", at_.count() / 1000));
}

void VcdSink::change(base::Nanoseconds time, std::uint32_t channel, const logic::Value& value) {
    go_to(time);
    out_(value_line(channel, value));
}

void VcdSink::end(base::Nanoseconds time) {
    if (dumping_ && time == at_) out_("$end\n");
    if (time > at_) go_to(time);
}

void CsvSink::begin(const std::vector<trace::Channel>& channels, base::Nanoseconds time) {
    channels_ = &channels;
    cells_.resize(channels.size());
    at_ = time;
    std::string header = "time_s";
    for (const trace::Channel& c : channels) header.append(1, ',').append(base::csv_cell(c.name));
    out_(header.append(1, '\n'));
}

void CsvSink::row() {
    std::string line = fmt::format("{}", base::to_seconds(at_));
    for (const std::string& cell : cells_) line.append(1, ',').append(cell);
    out_(line.append(1, '\n'));
}

void CsvSink::change(base::Nanoseconds time, std::uint32_t channel, const logic::Value& value) {
    if (any_ && time != at_) row();
    any_ = true;
    at_ = time;
    cells_[channel] = base::csv_cell(trace::cell_text((*channels_)[channel], value));
}

void CsvSink::end(base::Nanoseconds time) {
    if (!any_) return;
    row();
    if (time <= at_) return;  // a session may have gone back
    at_ = time;               // how long nothing more changed is part of the trace
    row();
}

std::string watch_header(const std::vector<std::string>& names) {
    std::string out = "time_s";
    for (const std::string& name : names) out.append(1, ',').append(base::csv_cell(name));
    return out.append(1, '\n');
}

std::string watch_row(base::Nanoseconds time, const std::vector<std::string>& cells) {
    std::string out = fmt::format("{}", base::to_seconds(time));
    for (const std::string& cell : cells) out.append(1, ',').append(base::csv_cell(cell));
    return out.append(1, '\n');
}

void replay(const trace::Trace& trace, trace::Sink& sink) {
    struct Entry {
        base::Nanoseconds time;
        std::uint32_t channel;
        std::size_t number;
    };
    std::vector<Entry> order;
    for (std::uint32_t c = 0; c < trace.channels().size(); ++c) {
        for (std::size_t i = 0; i < trace.of(c).size(); ++i) order.push_back({trace.of(c)[i].time, c, i});
    }
    std::stable_sort(order.begin(), order.end(), [](const Entry& a, const Entry& b) { return a.time < b.time; });
    sink.begin(trace.channels(), trace.begin_time());
    for (const Entry& e : order) sink.change(e.time, e.channel, trace.value(e.channel, trace.of(e.channel)[e.number]));
    sink.end(trace.end_time());
}

}  // namespace vyard::files
