// The registers of one controller as others see them, shared between the plant and whoever is connected. Every request
// sees, and changes, one instant: it is carried out under the lock as a whole.
#pragma once

#include <condition_variable>
#include <cstdint>
#include <map>
#include <mutex>
#include <vector>

#include "core/controller/controller.hpp"

namespace vyard::link {

/// What one tag is on the link: the place, its type, and whether others may write it.
struct Cell {
    controller::RegisterPlace place;
    logic::Elementary type = logic::Elementary::Bool;
    bool writable = false;
};

class Tables {
  public:
    /// `handshake`: a register of both tables of registers, of which the holding one may be written; -1 for none.
    Tables(std::vector<Cell> cells, int handshake);

    // --- for who owns the values ---
    /// Those cells at once, of values by cell. `step`: the count of the handshake.
    void publish(const std::vector<int>& cells, const std::vector<logic::Value>& by_cell, std::uint16_t step);
    /// By cell: those cells as they stand now.
    std::vector<logic::Value> read(const std::vector<int>& cells) const;
    /// Requests that were carried out since the last call: whoever asks, lives.
    std::uint64_t take_requests();
    /// Whether anything was ever written.
    bool written() const;
    /// What was written since the last call: the newest of each cell, by its number.
    std::map<int, logic::Value> take_written();
    /// Waits until the holding register of the handshake has this value, by the wall clock; false when time is over.
    bool wait_for(std::uint16_t answer, base::Nanoseconds longest);
    /// Waits until any request has written something, ever.
    bool wait_for_writer(base::Nanoseconds longest);
    /// Waits until the holding register of the handshake has another value than `known`; what it is then.
    std::uint16_t wait_for_other(std::uint16_t known, base::Nanoseconds longest);

    // --- for who carries out requests; all under the lock ---
    class Locked {
      public:
        explicit Locked(Tables& tables) : tables_(tables), lock_(tables.mutex_) {}
        controller::RegisterImage& image() { return tables_.image_; }
        /// Whether all of [first, first + count) may be written, no value in part.
        bool may_write(controller::RegisterArea area, std::uint32_t first, std::uint32_t count) const;
        /// A request was carried out.
        void asked() { ++tables_.requests_; }
        /// Something was written there: tells who waits.
        void wrote(controller::RegisterArea area, std::uint32_t first, std::uint32_t count);

      private:
        Tables& tables_;
        std::unique_lock<std::mutex> lock_;
    };

  private:
    /// Cells of one table of those that may be written, by number: bits of a register share one.
    using Table = std::vector<std::vector<int>>;
    const Table& table(controller::RegisterArea area) const {
        return area == controller::RegisterArea::Coil ? coils_ : holdings_;
    }

    std::vector<Cell> cells_;
    int handshake_;
    mutable std::mutex mutex_;
    std::condition_variable changed_;
    controller::RegisterImage image_;
    Table coils_, holdings_;
    std::map<int, logic::Value> written_;
    std::uint64_t writes_ = 0, requests_ = 0, taken_ = 0;
};

}  // namespace vyard::link
