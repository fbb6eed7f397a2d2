// Random networks: written by the layout, read back, compiled, and run beside an evaluator of the networks alone.
#include "core/random_networks.hpp"

using namespace vyard;
using namespace vyard::test;

namespace {

#ifdef __SANITIZE_ADDRESS__
constexpr unsigned kShare = 10;
#else
constexpr unsigned kShare = 1;
#endif

}  // namespace

TEST_CASE("ten thousand random networks are drawn, read back as the same, and do what they say") {
    for (unsigned seed = 0; seed < 10'000 / kShare; ++seed) {
        const DrawnForm form = seed % 3 == 0 ? DrawnForm::Ladder : DrawnForm::Blocks;
        const Network network = NetworkMaker(seed, form).run();
        const std::string text = program(network, form);
        CAPTURE(seed);
        CAPTURE(text);
        base::Diagnostics diagnostics;
        const base::SourcePtr source = base::make_source("t", text);
        const std::vector<logic::Drawing> read = logic::drawings_of(source, diagnostics);
        REQUIRE(diagnostics.render() == "");
        logic::Drawing given;
        given.networks.push_back(network);
        REQUIRE(logic::drawing_meaning(read[0]) == logic::drawing_meaning(given));
        REQUIRE(logic::with_drawings_formatted(source, diagnostics) == text);
        test::Scanner scanner(text);
        NetworkEvaluator evaluator(network);
        std::mt19937 random(seed);
        for (int scan = 0; scan < 12; ++scan) {
            for (const char* name : kInputs) {
                evaluator.values[name] = random() % 2 == 1;
                scanner.set(fmt::format("p.{}", name), evaluator.values[name] ? 1.0 : 0.0);
            }
            scanner.scan();
            evaluator.scan();
            for (const char* name : kOutputs) {
                CAPTURE(scan);
                CAPTURE(std::string(name));
                REQUIRE((scanner.get(fmt::format("p.{}", name)) != 0.0) == evaluator.values[name]);
            }
        }
    }
}
