// Throws bytes at the whole line of the language: lexer, parser, checker, generator, and the machine for a few scans.
// Nothing may crash, hang or touch memory that is not the program's. The first byte chooses: text as it stands, a
// sequence of words of the language, which reaches deeper than bytes do, or the rows of a drawing; what is drawn must
// be formatted to what is formatted to itself.
#include <cstdint>
#include <cstdlib>
#include <string>

#include "core/controller/state.hpp"
#include "core/logic/library/own_library.hpp"

namespace {

using namespace vyard;

const char* const kWords[] = {
    "PROGRAM p ",
    "END_PROGRAM ",
    "FUNCTION_BLOCK f ",
    "END_FUNCTION_BLOCK ",
    "FUNCTION g : INT ",
    "END_FUNCTION ",
    "VAR ",
    "VAR_INPUT ",
    "VAR_OUTPUT ",
    "VAR_IN_OUT ",
    "VAR_TEMP ",
    "VAR_GLOBAL ",
    "END_VAR ",
    "TYPE ",
    "END_TYPE ",
    "STRUCT ",
    "END_STRUCT ",
    "ARRAY[0..3] OF ",
    "ARRAY[*] OF ",
    "REF_TO ",
    "INT ",
    "BOOL ",
    "REAL ",
    "STRING[5] ",
    "TIME ",
    "TON ",
    "f ",
    "g(",
    "a ",
    "b ",
    "c ",
    "x ",
    ": ",
    ":= ",
    "; ",
    "=> ",
    ", ",
    "( ",
    ") ",
    "[ ",
    "] ",
    ". ",
    "^ ",
    "1 ",
    "2.5 ",
    "'ab' ",
    "T#1s ",
    "TRUE ",
    "IF ",
    "THEN ",
    "ELSE ",
    "END_IF ",
    "CASE ",
    "OF ",
    "END_CASE ",
    "FOR ",
    "TO ",
    "DO ",
    "END_FOR ",
    "WHILE ",
    "END_WHILE ",
    "AND ",
    "NOT ",
    "+ ",
    "- ",
    "* ",
    "/ ",
    "MOD ",
    "< ",
    "= ",
    "RETURN ",
    "EXIT ",
    "METHOD m : INT ",
    "END_METHOD ",
    "INTERFACE i ",
    "END_INTERFACE ",
    "EXTENDS ",
    "IMPLEMENTS ",
    "THIS ",
    "SUPER ",
    "NULL ",
    "REF( ",
    "AT %MW2 ",
    "AT %QX0.1 ",
    "%X3 ",
    "INITIAL_STEP ",
    "STEP ",
    "END_STEP ",
    "TRANSITION FROM ",
    "END_TRANSITION ",
    "ACTION ",
    "END_ACTION ",
    "CONFIGURATION ",
    "END_CONFIGURATION ",
    "TASK t(INTERVAL := T#10ms)",
    "WITH t : p ",
    "NAMESPACE n ",
    "END_NAMESPACE ",
    "USING n ",
    "CONCAT( ",
    "MUX( ",
    "INT_TO_STRING( ",
    "SEL( ",
    "LIMIT( ",
    "VAR a, b, c : INT; x : REAL; END_VAR ",
    "a := a + 1; ",
    "flasher ",
    "REPEAT ",
    "UNTIL ",
    "END_REPEAT ",
    "(1..5) ",
    "(red, green) ",
};
constexpr std::size_t kWordCount = sizeof kWords / sizeof *kWords;

/// What can be formatted reads back as the same, so formatting it again changes nothing.
void formats(const std::string& text) {
    base::Diagnostics diagnostics;
    const auto once = logic::with_drawings_formatted(base::make_source("fuzz.st", text), diagnostics);
    if (!once) return;
    const auto twice = logic::with_drawings_formatted(base::make_source("fuzz.st", *once), diagnostics);
    if (!twice || *twice != *once) std::abort();
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (size < 2 || size > 4000) return 0;
    std::string text;
    const std::string rows(reinterpret_cast<const char*>(data + 1), size - 1);
    switch (data[0] % 3) {
        case 0: text = rows; break;
        case 1:
            for (std::size_t i = 1; i < size; ++i) text += kWords[data[i] % kWordCount];
            break;
        default:
            text =
                "PROGRAM p VAR a, b, c, x, y, run, go : BOOL; n, m : INT; t1, delay : TON; h : ARRAY[0..3] OF BOOL; "
                "END_VAR\n" +
                std::string(data[0] < 128 ? "LADDER\n" : "FBD\n") + rows +
                (data[0] < 128 ? "\nEND_LADDER" : "\nEND_FBD") + "\nEND_PROGRAM\n";
            formats(text);
    }
    base::Diagnostics diagnostics;
    const logic::CheckedProgram checked = logic::check_program({base::make_source("fuzz.st", text)}, diagnostics);
    diagnostics.sort();
    const std::string rendered = diagnostics.render();
    if (diagnostics.has_errors()) return 0;
    controller::ControllerModel model;
    model.program = checked.program;
    model.max_instructions = 20'000;
    controller::ControllerState state = controller::power_up(model);
    for (int scan = 0; scan < 4; ++scan) controller::solve(model, state, base::Nanoseconds(scan * 10'000'000LL));
    for (const logic::Variable& v : model.program->variables) logic::variable_text(state.memory.data(), v);
    logic::code_text(*model.program);
    return controller::fault_text(model, state).size() > 100'000 ? 1 : 0;
}
