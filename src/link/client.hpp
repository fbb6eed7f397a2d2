// A Modbus TCP client of one controller: reads and writes its cells in the fewest requests.
#pragma once

#include <chrono>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "link/tables.hpp"

struct _modbus;

namespace vyard::link {

/// Numbers that go in one request: next to one another, no more than the protocol allows, no value in part.
struct Block {
    controller::RegisterArea area = controller::RegisterArea::Coil;
    std::uint32_t first = 0, count = 0;
    std::vector<int> cells;

    bool operator==(const Block&) const = default;
};
/// `write`: as requests that write take fewer. Cells may come in any order.
std::vector<Block> blocks_of(const std::vector<Cell>& cells, const std::vector<int>& which, bool write);

class Client {
  public:
    Client(std::string host, int port, int unit, std::vector<Cell> cells);
    ~Client();
    Client(Client&&) noexcept;

    /// Connects where it is not; false with why in problem().
    bool connect(std::chrono::milliseconds longest);
    bool connected() const { return connected_; }
    void disconnect();
    const std::string& problem() const { return problem_; }

    /// Values by cell, those of other cells left as they are. False when it failed; then it is not connected any more.
    bool read(const std::vector<Block>& blocks, std::vector<logic::Value>& by_cell);
    bool write(const std::vector<Block>& blocks, const std::vector<logic::Value>& by_cell);
    std::optional<std::uint16_t> read_word(controller::RegisterArea area, int number);
    bool write_word(int number, std::uint16_t value);
    std::uint64_t requests() const { return requests_; }

  private:
    struct FreeContext {
        void operator()(_modbus* m) const;
    };
    bool failed(const char* what);

    std::string host_, problem_;
    int port_, unit_;
    std::vector<Cell> cells_;
    std::unique_ptr<_modbus, FreeContext> context_;
    bool connected_ = false;
    std::uint64_t requests_ = 0;
};

}  // namespace vyard::link
