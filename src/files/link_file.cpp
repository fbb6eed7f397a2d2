#include "files/link_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>

namespace vyard::files {

using base::Code;
using base::Nanoseconds;
using controller::LinkRole;
using Form = plant::DefinitionValue::Form;

namespace {

class LinkReader {
  public:
    LinkReader(const base::SourcePtr& source, const std::string& name, const toml::table& table,
               base::Diagnostics& diagnostics)
        : source_(source), name_(name), table_(table), diagnostics_(diagnostics) {}

    session::LinkDefinition run() {
        check_keys(source_, table_,
                   {"role", "at", "unit", "fresh", "period", "locked", "handshake", "patience", "from", "clients",
                    "requests", "write", "stand_in", "echo", "asks"},
                   fmt::format("[controller.{}.link]", name_), diagnostics_);
        session::LinkDefinition out;
        controller::LinkModel& link = out.model;
        link.place = place_of(source_, table_.source());
        role(link);
        endpoint(link);
        number("unit", 0, 255, link.unit);
        number("handshake", 0, controller::kRegisters - 1, link.handshake);
        number("clients", 1, 100, link.clients);
        number("requests", 1, 1'000'000, link.requests);
        time("fresh", link.fresh);
        time("period", link.period);
        time("patience", link.patience);
        flag("locked", link.locked);
        echo(out);
        names("from", [&](const plant::DefinitionValue& v) { link.from.push_back(v.text); });
        names("write", [&](const plant::DefinitionValue& v) { out.write.push_back({v.text, v.place, {}}); });
        names("asks", [&](const plant::DefinitionValue& v) { out.asks.push_back({v.text, v.place}); });
        const bool screen = link.role == LinkRole::Screen;
        for (const char* key : {"fresh", "period", "locked", "handshake", "patience", "stand_in", "echo", "asks"})
            only(key, !screen, "a controller that is executed elsewhere: role \"server\" or \"client\"");
        only("write", screen, "a controller that is executed here: role \"screen\"");
        only("period", link.role == LinkRole::Client, "a plant that connects to its controller: role \"client\"");
        for (const char* key : {"clients", "requests"})  // 'from' is for the stand-in of a client, too
            only(key, link.role != LinkRole::Client, "what others connect to: role \"server\" or \"screen\"");
        return out;
    }

  private:
    void role(controller::LinkModel& link) {
        base::Place place = link.place;
        const auto text = text_at(source_, table_, "role", place, diagnostics_);
        if (!text) {
            if (!table_.contains("role"))
                diagnostics_.error(Code::MissingKey, link.place, fmt::format("the link of '{}' needs a 'role'", name_),
                                   "role = \"server\": the controller connects to the plant; \"client\": the plant "
                                   "connects to it; \"screen\": it is executed here, and others look at it");
            return;
        }
        for (const LinkRole r : {LinkRole::Server, LinkRole::Client, LinkRole::Screen}) {
            if (*text != controller::role_name(r)) continue;
            link.role = r;
            return;
        }
        diagnostics_.error(Code::WrongValue, place, fmt::format("'{}' is no role of a link", *text),
                           "server, client or screen");
    }

    void endpoint(controller::LinkModel& link) {
        base::Place place;
        const auto text = text_at(source_, table_, "at", place, diagnostics_);
        std::string why;
        if (text && !read_endpoint(*text, link.host, link.port, why))
            diagnostics_.error(Code::WrongValue, place, fmt::format("'{}' is no address", *text), why);
    }

    void echo(session::LinkDefinition& out) {
        base::Place place;
        const auto text = text_at(source_, table_, "echo", place, diagnostics_);
        if (!text) return;
        if (std::count(text->begin(), text->end(), '*') != 1)
            return diagnostics_.error(Code::WrongValue, place,
                                      fmt::format("'{}' does not say where the input's name goes", *text),
                                      "with one * for it: echo = \"seen_*\"");
        out.model.echo = *text;
        out.echo_place = place;
    }
    void number(const char* key, int low, int high, int& out) {
        const toml::node* node = table_.get(key);
        if (node == nullptr) return;
        const auto value = definition_value(source_, *node);
        if (value.form == Form::Number && value.number >= low && value.number <= high &&
            value.number == static_cast<int>(value.number)) {
            out = static_cast<int>(value.number);
            return;
        }
        diagnostics_.error(Code::OutOfRange, value.place,
                           fmt::format("'{}' is a whole number, {} to {}", key, low, high));
    }
    void time(const char* key, Nanoseconds& out) {
        base::Place place;
        const auto text = text_at(source_, table_, key, place, diagnostics_);
        if (!text) return;
        const auto reading = base::read_quantity(*text, base::Dimension::Time);
        if (reading.fault != base::QuantityFault::None)
            return diagnostics_.error(Code::WrongUnit, place,
                                      base::quantity_message(*text, reading, base::Dimension::Time));
        if (reading.si_value < 1e-3 || reading.si_value > 3600.0)
            return diagnostics_.error(Code::OutOfRange, place,
                                      fmt::format("'{}' is {}; accepted: 1 ms to 1 h", key, *text));
        out = base::from_seconds(reading.si_value);
    }
    void flag(const char* key, bool& out) {
        const toml::node* node = table_.get(key);
        if (node == nullptr) return;
        const auto value = definition_value(source_, *node);
        if (value.form != Form::Flag)
            return diagnostics_.error(Code::WrongValue, value.place, fmt::format("'{}' is true or false", key));
        out = value.flag;
    }
    template <class Take>
    void names(const char* key, Take take) {
        const toml::node* node = table_.get(key);
        if (node == nullptr) return;
        const auto value = definition_value(source_, *node);
        bool good = value.form == Form::List;
        for (const plant::DefinitionValue& v : value.list) good = good && v.form == Form::Text;
        if (!good)
            return diagnostics_.error(Code::WrongValue, value.place, fmt::format("'{}' is a list of strings", key));
        for (const plant::DefinitionValue& v : value.list) take(v);
    }
    void only(const char* key, bool fits, const char* whom) {
        if (fits || !table_.contains(key)) return;
        diagnostics_.error(Code::UnknownKey, definition_value(source_, *table_.get(key)).place,
                           fmt::format("'{}' is for {}", key, whom));
    }

    const base::SourcePtr& source_;
    const std::string& name_;
    const toml::table& table_;
    base::Diagnostics& diagnostics_;
};

}  // namespace

session::LinkDefinition read_link(const base::SourcePtr& source, const std::string& name, const toml::table& table,
                                  base::Diagnostics& diagnostics) {
    return LinkReader(source, name, table, diagnostics).run();
}

bool read_endpoint(std::string_view text, std::string& host, int& port, std::string& why) {
    why = "a host, a port or both: 127.0.0.1:1502, [::1]:1502, 192.168.0.10, :1502";
    std::string_view name = text, number;
    if (text.starts_with('[')) {
        const std::size_t end = text.find(']');
        if (end == std::string_view::npos) return false;
        name = text.substr(1, end - 1);
        number = text.substr(end + 1);
        if (!number.empty() && number[0] != ':') return false;
        if (!number.empty()) number.remove_prefix(1);
    } else if (const std::size_t colon = text.find(':'); colon != std::string_view::npos) {
        name = text.substr(0, colon);
        number = text.substr(colon + 1);
        if (number.empty()) return false;
    }
    for (const char c : name) {
        const bool fits = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '.' ||
                          c == '-' || c == ':' || c == '%' || c == '_';
        if (!fits) return false;
    }
    if (name.empty() && number.empty()) return false;
    if (!number.empty()) {
        int read = 0;
        const auto [end, failure] = std::from_chars(number.data(), number.data() + number.size(), read);
        if (failure != std::errc{} || end != number.data() + number.size() || read < 0 || read > 65'535) return false;
        port = read;
    }
    if (!name.empty()) host = std::string(name);
    return true;
}

}  // namespace vyard::files
