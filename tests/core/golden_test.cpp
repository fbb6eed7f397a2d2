#include <algorithm>

#include "core/golden.hpp"

using namespace vyard;
using namespace vyard::test;

TEST_CASE("golden programs") {
    std::vector<std::filesystem::path> files;
    for (const auto& entry : std::filesystem::directory_iterator(VYARD_TESTS "/golden")) {
        if (entry.path().extension() == ".st") files.push_back(entry.path());
    }
    std::sort(files.begin(), files.end());
    for (const auto& path : files) {
        const std::string file = path.filename().string();
        CAPTURE(file);
        std::ifstream in(path);
        std::stringstream text;
        text << in.rdbuf();
        run_golden(text.str(), text.str());
    }
    CHECK(files.size() >= 20);
}
