// Writes the C++ form of a generated program: emit_rungs COUNT FUNCTION FILE.
#include <cstdlib>
#include <fstream>

#include "rungs.hpp"

int main(int argc, char** argv) {
    if (argc != 4) return 2;
    std::ofstream out(argv[3]);
    out << vyard::bench::make_rungs(std::atoi(argv[1]), argv[2]).cpp;
    return out.good() ? 0 : 3;
}
