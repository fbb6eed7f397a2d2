// Throws bytes at the readers of a yard's files: plant, map, lists, stimuli, tags, checkout, traces, procedures and
// orders. The first byte says which. What they read is checked as it would be in a yard; nothing may crash, hang or
// take much memory, and what a plant's file gives steps.
#include <cstdint>
#include <string>

#include "core/procedure/procedure.hpp"
#include "files/checkout_file.hpp"
#include "files/list_file.hpp"
#include "files/map_file.hpp"
#include "files/plant_file.hpp"
#include "files/stimulus_file.hpp"
#include "files/tag_file.hpp"
#include "files/trace_csv.hpp"

namespace {

using namespace vyard;

/// A plant that names further files finds none.
base::SourcePtr no_part(const std::string&, const base::Place&) {
    return nullptr;
}

/// A small yard to read procedures and maps against.
const session::SessionModelPtr& small_yard() {
    static const session::SessionModelPtr model = [] {
        base::Diagnostics diagnostics;
        session::Definition d;
        session::ControllerDefinition c;
        c.name = "line";
        c.logic = {base::make_source("t.st",
                                     "VAR_GLOBAL run AT %QX0.0 : BOOL; see AT %IX0.0 : BOOL; n : INT; END_VAR\n"
                                     "PROGRAM main n := n + 1; run := see; END_PROGRAM\n")};
        d.controllers.push_back(std::move(c));
        d.plant = files::read_plant(
            base::make_source("plant.toml",
                              "[item.tile]\nsize = [\"200 mm\", \"200 mm\", \"20 mm\"]\n"
                              "[belt.a]\nat = [\"0 m\", \"0 m\"]\nlength = \"3 m\"\nspeed = \"0.5 m/s\"\n"
                              "[photoeye.eye]\non = \"a\"\nat = \"2 m\"\n"),
            diagnostics, no_part);
        d.map = files::read_map(base::make_source("map.csv", "tag,point\nrun,a.run\nsee,eye\n"), diagnostics);
        return session::build(d, diagnostics).model;
    }();
    return model;
}

void plant_of(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    plant::PlantDefinition definition = files::read_plant(source, diagnostics, no_part);
    const plant::CheckedPlant checked = plant::check_plant(definition, diagnostics);
    if (diagnostics.has_errors() || checked.model == nullptr || checked.model->devices.size() > 100) return;
    plant::PlantState state = checked.model->initial;
    plant::sense(*checked.model, state);
    for (int i = 0; i < 50; ++i) plant::step(*checked.model, state);
}

void orders_of(const base::SourcePtr& source, base::Diagnostics& diagnostics) {
    const auto book = procedure::read_orders(*small_yard(), source, diagnostics);
    if (book == nullptr || diagnostics.has_errors()) return;
    session::Session session(small_yard());
    procedure::Run run(book, 0, session);
    for (int i = 0; i < 200 && run.advance(session); ++i) session.step();
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (size < 1 || size > 20'000) return 0;
    const std::string text(reinterpret_cast<const char*>(data) + 1, size - 1);
    if (base::first_not_utf8(text) != std::string::npos) return 0;  // refused before any reader sees it
    const base::SourcePtr source = base::make_source("fuzz", text);
    base::Diagnostics diagnostics;
    switch (data[0] % 9) {
        case 0: plant_of(source, diagnostics); break;
        case 1:
            wiring::build_wiring(files::read_map(source, diagnostics), small_yard()->controllers, *small_yard()->plant,
                                 {}, diagnostics);
            break;
        case 2: files::read_list(source, diagnostics); break;
        case 3: files::read_stimulus(source, diagnostics); break;
        case 4: {
            const auto tags = files::read_tag_list(source, diagnostics);
            files::declarations_of(files::new_tags(tags, *small_yard()->controllers[0].program, diagnostics));
            break;
        }
        case 5: files::read_checkout(source, diagnostics); break;
        case 6: files::read_trace_csv(source, diagnostics); break;
        case 7: procedure::read_book(*small_yard(), {source}, diagnostics); break;
        default: orders_of(source, diagnostics); break;
    }
    diagnostics.sort();
    diagnostics.render();
    return 0;
}
