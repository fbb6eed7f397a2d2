// Loops over arrays that leave out their last element, or their first: all indices that the logic uses, together.
// Internal to this room.
#pragma once

#include <map>
#include <optional>
#include <vector>

#include "core/logic/analysis/ranges.hpp"

namespace vyard::logic {

/// Hears of indices while ranges are followed; of arrays of one dimension that only the logic can reach, element by
/// element. What is handed over whole, lies at an address, or is reached by an index that may be anything is left out.
class Walks {
  public:
    /// Cost: the bodies of the program.
    explicit Walks(const CheckedLogic& logic);

    void index(const Expression& e, int unit, std::size_t dimension, const Interval& at);

    /// Where just one end of an array is reached by nothing, and a loop comes as far as the element beside it. An
    /// element 0 is often left alone on purpose.
    void report(base::Diagnostics& diagnostics) const;

  private:
    struct Array {
        const Field* field = nullptr;
        Dimension bounds;
        std::vector<bool> reached;  ///< By element.
        bool whole = false;         ///< By other means than an index, or by any index.
        const Expression* walk = nullptr;
        int walk_unit = -1;
        Interval walk_at;
    };
    void take(const Layout& layout, int unit);
    void look(const StatementList& body);
    void look(const Expression& e);
    static void reach(Array& a, Interval::Number low, Interval::Number high);
    Array* array_of(const Expression& e, int unit);

    const CheckedLogic& logic_;
    int unit_ = -1;
    std::map<Node, Array> arrays_;
};

}  // namespace vyard::logic
