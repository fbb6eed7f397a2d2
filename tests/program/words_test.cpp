// docs/words.md against the program: one word for one thing.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <map>
#include <regex>
#include <set>
#include <vector>

#include "core/plant/kind.hpp"
#include "program/support.hpp"

using namespace vyard;
using namespace vyard::test;

namespace {

using Rows = std::vector<std::vector<std::string>>;

/// The rows of the table below a heading of the page, cells without back ticks.
Rows table_of(const std::string& heading) {
    const std::string page = slurp(fs::path(VYARD_SOURCE) / "docs/words.md");
    std::istringstream lines(page.substr(page.find("\n## " + heading + "\n")));
    Rows out;
    bool in_table = false;
    for (std::string line; std::getline(lines, line);) {
        if (!line.starts_with("| ")) {
            if (in_table) break;
            continue;
        }
        in_table = true;
        std::vector<std::string> cells;
        std::istringstream row(line.substr(2));
        for (std::string cell; std::getline(row, cell, '|');) {
            std::erase(cell, '`');
            cells.emplace_back(base::trimmed(cell));
        }
        out.push_back(std::move(cells));
    }
    REQUIRE(out.size() > 2);
    out.erase(out.begin(), out.begin() + 2);  // the head
    return out;
}

std::vector<std::string> parts_of(const std::string& text, const char* separators) {
    std::vector<std::string> out(1);
    for (const char c : text) {
        if (std::string(separators).find(c) != std::string::npos)
            out.emplace_back();
        else
            out.back() += c;
    }
    std::erase(out, "");
    return out;
}

std::string quantity_of(plant::PointType type, base::Dimension dimension) {
    switch (type) {
        case plant::PointType::Boolean: return "BOOL";
        case plant::PointType::Text: return "string";
        default: return base::dimension_name(dimension);
    }
}

std::string quantity_of(const plant::ParameterSpec& p) {
    switch (p.type) {
        case plant::ParameterType::Quantity:
        case plant::ParameterType::Numbers: return base::dimension_name(p.dimension);
        case plant::ParameterType::Whole: return "number";
        case plant::ParameterType::Choice: return "choice";
        case plant::ParameterType::Device: return "device";
        case plant::ParameterType::Items: return "items";
        case plant::ParameterType::Colour: return "colour";
        case plant::ParameterType::Names: return "names";
    }
    return {};
}

/// Each name of the kinds, with all quantities that it stands for.
std::map<std::string, std::set<std::string>> names_of_kinds() {
    std::map<std::string, std::set<std::string>> out;
    for (const plant::Kind& kind : plant::all_kinds()) {
        for (const auto& p : kind.parameters) out[p.name].insert(quantity_of(p));
        for (const auto& p : kind.points) out[p.name].insert(quantity_of(p.type, p.dimension));
        for (const auto& a : kind.actuals) out[a.name].insert(quantity_of(a.type, a.dimension));
        for (const auto& c : kind.controls) out[c.verb].insert("hand control");
        for (const auto& f : kind.faults) out[f.name].insert("fault");
        for (const auto& m : kind.mishaps) out[m.name].insert("mishap");
    }
    return out;
}

}  // namespace

TEST_CASE("a name of a kind is of one quantity, or the page of words says of which") {
    std::map<std::string, std::set<std::string>> listed;
    for (const auto& row : table_of("Names that several kinds share")) {
        REQUIRE(row.size() == 3);
        for (const std::string& name : parts_of(row[0], ", ")) {
            for (const std::string& q : parts_of(row[2], ",")) listed[name].insert(std::string(base::trimmed(q)));
        }
    }
    for (const auto& [name, quantities] : names_of_kinds()) {
        if (quantities.size() == 1) {
            CHECK_MESSAGE(!listed.contains(name), fmt::format("'{}' is {} alone", name, *quantities.begin()));
        } else {
            CHECK_MESSAGE(listed[name] == quantities, fmt::format("'{}' is {}", name, fmt::join(quantities, ", ")));
        }
        listed.erase(name);
    }
    for (const auto& [name, quantities] : listed) CHECK_MESSAGE(false, fmt::format("no kind has '{}'", name));
}

TEST_CASE("words that are not used are in no name") {
    std::set<std::string> names;
    for (const plant::Kind& kind : plant::all_kinds()) {
        names.insert(kind.name);
        for (const auto& p : kind.parameters) names.insert(p.choices.begin(), p.choices.end());
    }
    for (const auto& [name, quantities] : names_of_kinds()) names.insert(name);
    const std::regex option("--([a-z-]+)");
    Folder f;
    f.copy_example();
    for (const char* command : {"check", "tags", "map", "checkout", "run", "live", "tell", "prove", "draw", "show",
                                "format", "convert", "compare", "measure", "new", "kinds", "blocks"}) {
        const std::string help = f.run(std::string(command) + " --help").out;
        CHECK(contains(help, "Options:"));
        for (std::sregex_iterator m(help.begin(), help.end(), option), end; m != end; ++m) names.insert((*m)[1]);
    }
    for (const char* list : {"tags glaze --csv", "map glaze --csv", "checkout glaze --csv --only lift"}) {
        const std::string csv = f.run(list).out;
        for (const std::string& column : parts_of(csv.substr(0, csv.find('\n')), ",")) names.insert(column);
    }
    CHECK(names.contains("scan"));
    CHECK(names.contains("direction"));
    CHECK(names.size() > 250);
    for (const auto& row : table_of("Not used")) {
        REQUIRE(row.size() >= 2);
        if (row[0].ends_with(')')) continue;  // of one use alone
        const std::vector<std::string> instead = parts_of(row[1], ", ");
        for (const std::string& word : parts_of(row[0], ", ")) {
            for (const std::string& name : names) {
                if (std::find(instead.begin(), instead.end(), name) != instead.end()) continue;
                const auto parts = parts_of(name, "_ ");
                CHECK_MESSAGE(std::find(parts.begin(), parts.end(), word) == parts.end(),
                              fmt::format("'{}' is not used, and '{}' has it", word, name));
            }
        }
    }
}

TEST_CASE("messages keep to the page's words") {
    const std::regex wrong(
        "\"[^\"]*(passed over|read over|one word too many|not obeyed|the call is wrong|is no "
        "(valid|name|number|filter)|a "
        "text in quotes|written as a text|many many|large or small letters)");
    for (const auto& entry : fs::recursive_directory_iterator(fs::path(VYARD_SOURCE) / "src")) {
        if (!entry.is_regular_file()) continue;
        std::istringstream lines(slurp(entry.path()));
        int number = 0;
        for (std::string line; std::getline(lines, line);) {
            ++number;
            const std::string code = line.substr(0, line.find("//"));
            CHECK_MESSAGE(!std::regex_search(code, wrong),
                          fmt::format("{}:{}: {}", entry.path().string(), number, line));
        }
    }
}
