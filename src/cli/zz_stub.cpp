#include "cli/command.hpp"
namespace vyard::cli { int live_command(const std::vector<std::string>&){return 3;} int draw_command(const std::vector<std::string>&){return 3;} int demo_command(const std::vector<std::string>&){return 3;} }
