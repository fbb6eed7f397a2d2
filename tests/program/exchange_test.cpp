// The open XML: text -> XML -> text loses nothing, what others wrote is read for what it means, and what is wrong with
// a file is told at its place.
#include <algorithm>
#include <regex>

#include "core/golden.hpp"
#include "core/random_networks.hpp"
#include "files/exchange/exchange.hpp"
#include "program/support.hpp"

using namespace vyard;
using namespace vyard::test;

namespace {

std::string to_xml(const std::string& text) {
    base::Diagnostics diagnostics;
    std::string xml = files::write_exchange("t", {base::make_source("t.st", text)}, diagnostics);
    REQUIRE_MESSAGE(!diagnostics.has_errors(), diagnostics.render());
    return xml;
}

std::string to_text(const std::string& xml) {
    base::Diagnostics diagnostics;
    const base::SourcePtr text = files::read_exchange(base::make_source("t.xml", xml), diagnostics);
    REQUIRE_MESSAGE(!diagnostics.has_errors(), diagnostics.render());
    CHECK(diagnostics.list().empty());
    return text->text;
}

std::vector<fs::path> shipped_texts() {
    std::vector<fs::path> out;
    for (const char* folder : {"examples", "tests/golden", "library"}) {
        for (const auto& entry : fs::recursive_directory_iterator(fs::path(VYARD_SOURCE) / folder)) {
            if (entry.path().extension() == ".st") out.push_back(entry.path());
        }
    }
    std::sort(out.begin(), out.end());
    return out;
}

/// Words of all comments of a text: a trip may put them above another thing, or at each name they describe.
std::vector<std::string> comment_words(const std::string& text) {
    const base::SourcePtr source = base::make_source("t.st", text);
    std::string all;
    for (const logic::Extent& c : logic::comments_of(source)) all += std::string(c.of(*source)) + " ";
    base::Diagnostics ignored;
    for (const logic::Drawing& d : logic::drawings_of(source, ignored)) {
        for (const logic::DrawingNote& n : logic::notes_of(d)) all += n.text + " ";
    }
    std::vector<std::string> out;
    std::istringstream words(all);
    for (std::string word; words >> word;) {
        word = std::regex_replace(word, std::regex("\\(\\*|\\*\\)|//|;$"), "");
        if (!word.empty()) out.push_back(word);
    }
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

/// A project with one program `p`: declarations of local variables, and a body.
std::string project(const std::string& body, const std::string& variables = "", const std::string& more = "") {
    std::string list;
    std::istringstream names(variables);
    for (std::string name; names >> name;) {
        const std::size_t colon = name.find(':');
        const std::string type = colon == std::string::npos ? "BOOL" : name.substr(colon + 1);
        const bool derived = type == "TON" || type == "CTU";
        list += fmt::format("<variable name=\"{}\"><type>{}</type></variable>", name.substr(0, colon),
                            derived ? fmt::format("<derived name=\"{}\"/>", type) : fmt::format("<{}/>", type));
    }
    return fmt::format(
        "<?xml version=\"1.0\" encoding=\"utf-8\"?>\n<project xmlns=\"http://www.plcopen.org/xml/tc6_0201\">\n<types>"
        "<pous>\n<pou name=\"p\" pouType=\"program\"><interface><localVars>{}</localVars></interface>\n{}<body>\n{}\n"
        "</body></pou>\n</pous></types>\n</project>\n",
        list, more, body);
}

/// What stands between the variables and the end of the program.
std::string body_of(const std::string& text) {
    const std::size_t begin = text.rfind("END_VAR\n") + 8;
    return text.substr(begin, text.rfind("END_PROGRAM") - begin);
}

std::string diagnostics_of(const std::string& xml) {
    base::Diagnostics diagnostics;
    files::read_exchange(base::make_source("t.xml", xml), diagnostics);
    std::string out;
    diagnostics.sort();
    for (const base::Diagnostic& d : diagnostics.list()) {
        out += fmt::format("{} {}: {}\n", d.place.text(), d.severity == base::Severity::Error ? "error" : "warning",
                           d.message);
    }
    return out;
}

}  // namespace

TEST_CASE("every shipped text goes to XML and back and is the same: text, instructions, comments") {
    const std::vector<fs::path> texts = shipped_texts();
    CHECK(texts.size() > 40);
    for (const fs::path& path : texts) {
        const std::string file = path.string();
        CAPTURE(file);
        const std::string before = slurp(path);
        const std::string xml = to_xml(before), after = to_text(xml);
        CHECK(to_text(to_xml(after)) == after);
        CHECK(comment_words(after) == comment_words(before));
        // Instructions, without the places that they come from.
        const auto code = [](const std::string& text) {
            base::Diagnostics diagnostics;
            const auto program = logic::compile({base::make_source("t.st", text)}, diagnostics);
            return program == nullptr ? std::string("no program")
                                      : std::regex_replace(logic::code_text(*program), std::regex("; t.st[^\n]*"), "");
        };
        CHECK(code(after) == code(before));
        base::Diagnostics diagnostics;
        const base::SourcePtr source = base::make_source("t.st", after);
        CHECK(logic::with_drawings_formatted(source, diagnostics) == after);
    }
}

TEST_CASE("the golden programs do from XML what they do as text") {
    int count = 0;
    for (const auto& entry : fs::directory_iterator(fs::path(VYARD_SOURCE) / "tests/golden")) {
        if (!entry.is_regular_file()) continue;
        const std::string file = entry.path().string();
        CAPTURE(file);
        const std::string text = slurp(entry.path());
        run_golden(text, to_text(to_xml(text)));
        ++count;
    }
    CHECK(count >= 20);
}

TEST_CASE("a thousand random networks mean the same behind XML") {
    for (unsigned seed = 0; seed < 1000; ++seed) {
        const DrawnForm form = seed % 3 == 0 ? DrawnForm::Ladder : DrawnForm::Blocks;
        const Network network = NetworkMaker(seed, form).run();
        const std::string text = program(network, form);
        const std::string after = to_text(to_xml(text));
        CAPTURE(text);
        CAPTURE(after);
        base::Diagnostics diagnostics;
        const auto before_read = logic::drawings_of(base::make_source("t", text), diagnostics);
        const auto after_read = logic::drawings_of(base::make_source("t", after), diagnostics);
        REQUIRE(diagnostics.render() == "");
        REQUIRE(logic::drawing_meaning(after_read.at(0)) == logic::drawing_meaning(before_read.at(0)));
    }
}

TEST_CASE("connections decide: order, coordinates and ids of a rung's elements change nothing") {
    const std::string rung =
        "<LD><coil localId=\"70\"><position x=\"0\" y=\"0\"/><connectionPointIn><connection refLocalId=\"5\"/>"
        "</connectionPointIn><variable>run</variable></coil>"
        "<contact localId=\"5\"><position x=\"0\" y=\"0\"/><connectionPointIn><connection refLocalId=\"3\"/>"
        "<connection refLocalId=\"2\"/></connectionPointIn><variable>stop</variable></contact>"
        "<contact localId=\"2\"><position x=\"0\" y=\"0\"/><connectionPointIn><connection refLocalId=\"9\"/>"
        "</connectionPointIn><variable>start</variable></contact>"
        "<contact localId=\"3\" negated=\"true\"><position x=\"0\" y=\"0\"/><connectionPointIn><connection "
        "refLocalId=\"9\"/></connectionPointIn><variable>run</variable></contact>"
        "<leftPowerRail localId=\"9\"><connectionPointOut formalParameter=\"\"/></leftPowerRail></LD>";
    CHECK(body_of(to_text(project(rung, "start stop run"))) ==
          "LADDER\n| start   stop    run  |\n+--| |--+--| |----( )--+\n|  run  |              |\n+--|/|--+             "
          " |\n"
          "END_LADDER\n");
}

TEST_CASE("an output that leads to inputs of others too gets a contact that is always closed") {
    // x hangs on a alone, y on a or b: joined lines would let b through to x.
    const std::string rung =
        "<LD><leftPowerRail localId=\"1\"/>"
        "<contact localId=\"2\"><connectionPointIn><connection refLocalId=\"1\"/></connectionPointIn><variable>a"
        "</variable></contact><contact localId=\"3\"><connectionPointIn><connection refLocalId=\"1\"/>"
        "</connectionPointIn><variable>b</variable></contact>"
        "<coil localId=\"4\"><connectionPointIn><connection "
        "refLocalId=\"2\"/></connectionPointIn><variable>x</variable>"
        "</coil><coil localId=\"5\"><connectionPointIn><connection refLocalId=\"2\"/><connection refLocalId=\"3\"/>"
        "</connectionPointIn><variable>y</variable></coil></LD>";
    const std::string text = to_text(project(rung, "a b x y"));
    Scanner scanner(text);
    for (int inputs = 0; inputs < 4; ++inputs) {
        scanner.set("p.a", inputs & 1);
        scanner.set("p.b", inputs / 2);
        scanner.scan();
        CHECK(scanner.get("p.x") == (inputs & 1));
        CHECK(scanner.get("p.y") == (inputs > 0 ? 1 : 0));
    }
}

TEST_CASE("stated turns of blocks hold, across what is not joined too") {
    // n is counted by the second turn and looked at by the first: m is one scan behind, k is not.
    const auto block = [](int id, int turn, const char* left, const char* right, const char* out) {
        return fmt::format(
            "<inVariable localId=\"{0}1\"><expression>{2}</expression></inVariable><inVariable localId=\"{0}2\">"
            "<expression>{3}</expression></inVariable><block localId=\"{0}\" typeName=\"ADD\" executionOrderId=\"{1}\">"
            "<inputVariables><variable formalParameter=\"IN1\"><connectionPointIn><connection refLocalId=\"{0}1\"/>"
            "</connectionPointIn></variable><variable formalParameter=\"IN2\"><connectionPointIn><connection "
            "refLocalId=\"{0}2\"/></connectionPointIn></variable></inputVariables><inOutVariables/><outputVariables>"
            "<variable formalParameter=\"OUT\"><connectionPointOut/></variable></outputVariables></block>"
            "<outVariable localId=\"{0}3\" executionOrderId=\"{1}\"><connectionPointIn><connection refLocalId=\"{0}\" "
            "formalParameter=\"OUT\"/></connectionPointIn><expression>{4}</expression></outVariable>",
            id, turn, left, right, out);
    };
    const std::string body =
        "<FBD>" + block(30, 3, "n", "0", "k") + block(20, 2, "n", "1", "n") + block(10, 1, "n", "0", "m") + "</FBD>";
    // The same where the blocks alone state their turns.
    const std::string blocks_alone =
        std::regex_replace(body, std::regex("(<outVariable[^>]*) executionOrderId=\".\""), "$1");
    CHECK(blocks_alone != body);
    for (const std::string& form : {body, blocks_alone}) {
        const std::string text = to_text(project(form, "n:INT m:INT k:INT"));
        CAPTURE(text);
        Scanner scanner(text);
        for (int scan = 1; scan <= 3; ++scan) {
            scanner.scan();
            CHECK(scanner.get("p.n") == scan);
            CHECK(scanner.get("p.m") == scan - 1);
            CHECK(scanner.get("p.k") == scan);
        }
    }
}

TEST_CASE("files as others write them: charts with every form of condition, shared rails, lists, tasks") {
    CHECK(to_text(in_source("tests/golden/exchange/chart.xml")) == in_source("tests/golden/exchange/chart.st.txt"));
    base::Diagnostics diagnostics;
    const base::SourcePtr kiln =
        files::read_exchange(base::make_source("kiln.xml", in_source("tests/golden/exchange/kiln.xml")), diagnostics);
    REQUIRE(kiln != nullptr);
    CHECK(kiln->text == in_source("tests/golden/exchange/kiln.st.txt"));
    CHECK(
        joined(lines_of(diagnostics, true)) ==
        "18:73 the addition 'urn:somebody:colour' of another maker is left out\n"
        "34:7 <vendorElement> is not read and left out\n37:14 the addition 'urn:somebody:id' of another maker is left "
        "out\n");
}

TEST_CASE("what is wrong with a file is told at its place, all at once") {
    struct Row {
        std::string xml, said;
    };
    const auto in_body = [](const std::string& body) { return project(body, "a x"); };
    for (const Row& row : std::vector<Row>{
             {"", "t.xml:1:1 error: this is not well-formed XML: no document element found\n"},
             {"<project xmlns=\"http://www.plcopen.org/xml/tc6_0201\"><types>",
              "t.xml:1:60 error: this is not well-formed XML: start-end tags mismatch\n"},
             {"<Project xmlns=\"www.iec.ch/public/other\"/>",
              "t.xml:1:1 error: this is not a project of the exchange format: its root is <Project> in "
              "'www.iec.ch/public/other'\n"},
             {"<?xml version=\"1.0\" encoding=\"ISO-8859-1\"?><project/>",
              "t.xml:1:1 error: XML is read in UTF-8, not in iso-8859-1\n"},
             {"<!DOCTYPE project SYSTEM \"http://localhost/x.dtd\"><project/>",
              "t.xml:1:1 error: a document type is not read: nothing is fetched, and no entities are expanded\n"},
             {"<?xmlencoding=", "t.xml:1:1 error: XML is read in UTF-8, not in an encoding without a name\n"},
             {"<project>&lol;</project>",
              "t.xml:1:10 error: '&lol;' is not expanded: entities of a document are not read\n"},
             {"<project a=\"1 & 2\"/>", "t.xml:1:15 error: '&' begins a character's name, which ends with ';'\n"},
             {in_body("<LD><coil localId=\"1\"><connectionPointIn><connection refLocalId=\"7\"/></connectionPointIn>"
                      "<variable>x</variable></coil></LD>"),
              "t.xml:6:42 error: no element with an output has the localId '7'\n"},
             {in_body("<LD><coil localId=\"1\"><variable>x</variable></coil></LD>"),
              "t.xml:6:5 error: no connection leads to this <coil>\n"},
             {in_body("<LD><leftPowerRail localId=\"1\"/><contact localId=\"2\"><connectionPointIn><connection "
                      "refLocalId=\"1\"/></connectionPointIn><variable>a</variable></contact></LD>"),
              "t.xml:6:33 warning: this <contact> leads nowhere and is left out\n"},
             {in_body("<LD><contact localId=\"1\"><variable/></contact></LD>"),
              "t.xml:6:5 error: the variable is missing\n"},
             {in_body("<LD><contact localId=\"1\"><variable>a; b</variable></contact></LD>"),
              "t.xml:6:5 error: the variable 'a; b' is not a valid expression\n"},
             {in_body("<LD><contact localId=\"1\"><variable>a</variable></contact><contact localId=\"1\">"
                      "<variable>x</variable></contact></LD>"),
              "t.xml:6:58 error: two elements have the localId '1'\n"},
             {in_body(
                  "<FBD><inVariable localId=\"1\"><expression>a</expression></inVariable><inVariable localId=\"2\">"
                  "<expression>x</expression></inVariable><outVariable localId=\"3\"><connectionPointIn><connection "
                  "refLocalId=\"1\"/><connection refLocalId=\"2\"/></connectionPointIn><expression>x</expression>"
                  "</outVariable></FBD>"),
              "t.xml:6:132 error: several outputs lead to this input; which one counts is not said\n"},
             {in_body(
                  "<FBD><inVariable localId=\"1\" edge=\"rising\"><expression>a</expression></inVariable><outVariable "
                  "localId=\"2\" storage=\"set\"><connectionPointIn><connection refLocalId=\"1\"/></connectionPointIn>"
                  "<expression>x</expression><documentation><xhtml>why</xhtml></documentation></outVariable></FBD>"),
              "t.xml:6:6 error: edge=\"rising\" of <inVariable> is not read\n"
              "t.xml:6:83 error: storage=\"set\" of <outVariable> is not read\n"
              "t.xml:6:215 warning: <documentation> is not read and left out\n"},
             {in_body("<XX/>"), "t.xml:6:1 error: a body <XX> is not read\n"},
             {in_body("<IL>LD a\nAND b\nCAL t\nST x</IL>"),
              "t.xml:8:1 error: the current result is used behind this call, which may change what it was computed "
              "from\n"},
             {in_body("<SFC><transition localId=\"4\"/></SFC>"),
              "t.xml:6:6 error: this transition leads from no step\n"},
             {"<project><types><pous><pou name=\"1x\" pouType=\"programm\"/></pous></types></project>",
              "t.xml:1:23 error: 'programm' is not a valid pouType\n"},
             {"<project><types><dataTypes><dataType name=\"a b\"/></dataTypes></types></project>",
              "t.xml:1:28 error: 'a b' cannot be the name of something\n"
              "t.xml:1:28 error: <dataType> has no <baseType>\n"},
             {in_body(
                  "<ST>x := a;</ST><addData><data name=\"urn:them\"/><data name=\"urn:them\"/></addData><strange/>"),
              "t.xml:6:26 warning: the addition 'urn:them' of another maker is left out (2 places)\n"
              "t.xml:6:82 error: a body <strange> is not read\n"},
         }) {
        CAPTURE(row.xml);
        CHECK(diagnostics_of(row.xml) == row.said);
    }
    std::string deep = "<project>";
    for (int i = 0; i < 300; ++i) deep += "<a>";
    CHECK(diagnostics_of(deep) == "t.xml:1:607 error: elements are nested more than 200 deep\n");
}

TEST_CASE("a mistake of the logic in XML is told at its place in the XML, with the text that it became") {
    Folder f;
    f.write("cell.xml", project("<ST><xhtml xmlns=\"http://www.w3.org/1999/xhtml\">x := a &lt;&gt; 3 AND strat;\n"
                                "  y := a;</xhtml></ST>",
                                "a:INT x start"));
    const Result r = f.run("check cell.xml");
    CHECK(r.exit == 2);
    CHECK(contains(r.err, "cell.xml:6:71: error: no variable is named 'strat'"));
    CHECK(contains(r.err, "    x := a <> 3 AND strat;\n                    ^~~~~\n    hint: did you mean 'start'?"));
    CHECK(contains(r.err, "cell.xml:7:3: error: no variable is named 'y'"));
    f.write("rung.xml",
            project("<LD>\n<leftPowerRail localId=\"1\"/>\n<contact localId=\"2\"><connectionPointIn><connection "
                    "refLocalId=\"1\"/></connectionPointIn><variable>strat</variable></contact>\n<coil "
                    "localId=\"3\"><connectionPointIn><connection refLocalId=\"2\"/></connectionPointIn>"
                    "<variable>x</variable></coil></LD>",
                    "start x"));
    const Result rung = f.run("check rung.xml");
    CHECK(rung.exit == 2);
    CHECK(contains(rung.err, "rung.xml:8:1: error: no variable is named 'strat'"));
    CHECK(contains(rung.err, "| strat"));
}

TEST_CASE("a lone XML file is checked and run, and a yard names one as its logic") {
    Folder f;
    f.copy_example();
    const std::string alone =
        "PROGRAM p VAR go AT %IX0.0 : BOOL; lamp AT %QX0.0 : BOOL; t : TON; END_VAR\nLADDER\n"
        "|            t          |\n|         +-----+       |\n|  go     | TON |  lamp |\n+--| |----|IN  Q|---( )-+\n"
        "|  T#50ms-|PT   |       |\n|         +-----+       |\nEND_LADDER\nEND_PROGRAM\n";
    f.write("cell.st", alone);
    CHECK(f.run("convert cell.st --out cell.xml").exit == 0);
    f.write("s.csv", "time,tag,value\n0 ms,p.go,FALSE\n100 ms,p.go,TRUE\n");
    CHECK(f.run("check cell.xml").exit == 0);
    for (const char* file : {"cell.st", "cell.xml"}) {
        const Result r = f.run(fmt::format("run {} --for 300ms --scan 10ms --stimulus s.csv --out {}.run", file, file));
        CHECK_MESSAGE(r.exit == 0, r.err);
    }
    CHECK(f.read("cell.st.run/trace.csv") == f.read("cell.xml.run/trace.csv"));
    CHECK(contains(f.read("cell.st.run/trace.csv"), "TRUE"));

    // The glaze line, all its logic in one XML file: the same verdicts at the same times.
    CHECK(f.run("convert glaze --out line.xml").exit == 0);
    const Result text = f.run("prove glaze");
    const std::string yard = f.read("glaze/yard.toml");
    const std::size_t logic = yard.find("logic");
    f.write("glaze/yard.toml",
            yard.substr(0, logic) + "logic = [\"../line.xml\"]" + yard.substr(yard.find('\n', logic)));
    const Result xml = f.run("prove glaze");
    CHECK(text.exit == 0);
    CHECK(xml.exit == 0);
    const auto timeless = [](const std::string& out) {
        return std::regex_replace(out, std::regex("in [0-9.]+ (s|ms) of[^\n]*|[0-9.]+ times[^\n]*"), "");
    };
    CHECK(timeless(xml.out) == timeless(text.out));
}

TEST_CASE("convert writes where it is told, and never over what it reads") {
    Folder f;
    f.write("a.st", "PROGRAM p VAR x : BOOL; END_VAR x := NOT x; END_PROGRAM\n");
    CHECK(f.run("convert a.st --out b.xml").out == "wrote b.xml\n");
    const Result text = f.run("convert b.xml");
    CHECK(text.out == "PROGRAM p\nVAR\n    x : BOOL;\nEND_VAR\nx := NOT x;\nEND_PROGRAM\n");
    CHECK(f.run("convert a.st --out a.st").exit == 2);
    CHECK(contains(f.run("convert a.st --out c.st").err, "'c.st' is not the name of an XML file"));
    CHECK(contains(f.run("convert b.xml --out c.xml").err, "'c.xml' is not the name of a text file"));
    CHECK(contains(f.run("convert lost.xml").err, "lost.xml"));
    f.write("bad.st", "PROGRAM p x := ; END_PROGRAM\n");
    const Result bad = f.run("convert bad.st --out bad.xml");
    CHECK(bad.exit == 2);
    CHECK(contains(bad.err, "bad.st:1:16: error"));
    CHECK_FALSE(f.has("bad.xml"));
    f.write("odd.st", "PROGRAM p VAR x : BOOL; END_VAR x := NOT x; (* \x01 *) END_PROGRAM\n");
    CHECK(contains(f.run("convert odd.st").err, "odd.st:1:48: error: this character cannot stand in XML"));
    f.write("class.st", "CLASS c\nEND_CLASS\nPROGRAM p VAR x : BOOL; END_VAR x := NOT x; END_PROGRAM\n");
    const Result own = f.run("convert class.st --out class.xml");
    CHECK(own.exit == 0);
    CHECK(contains(own.err, "class.st:1:1: warning: the exchange format has no words for this"));
    CHECK(contains(f.run("convert class.xml").out, "CLASS c\nEND_CLASS\n"));
}

TEST_CASE("an XML file that is cut off anywhere is refused or read, and never half of it is taken for all") {
    const std::string xml = to_xml(in_source("examples/book-press/logic/press.st"));
    for (std::size_t size = 0; size + 12 < xml.size(); size += 97) {
        base::Diagnostics diagnostics;
        CHECK(files::read_exchange(base::make_source("t.xml", xml.substr(0, size)), diagnostics) == nullptr);
        CHECK(diagnostics.has_errors());
    }
}
