// Controllers that are executed here, offered to screens, historians and test programs: what they read is an instant
// between two scans, what they write comes before the next.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "core/session/session.hpp"
#include "link/server.hpp"

namespace vyard::link {

/// A value that a screen wrote.
struct ScreenWrite {
    int controller = 0;
    controller::Spot spot;
    std::string tag;  ///< As orders name it.
    logic::Value value;
    std::string text;  ///< The value, as orders write it.
};

class Screens {
  public:
    /// Null with why in `problem`. Controllers of one address share it, and are told apart by their unit ids.
    static std::unique_ptr<Screens> open(const session::SessionModelPtr& model, std::string& problem);
    bool none() const { return offers_.empty(); }

    /// After a step: what tags are now. Cost: the tags on the links, when a controller has scanned.
    void publish(const session::Session& session);
    /// Before a step: what was written since the last time, for the controllers to get once.
    std::vector<ScreenWrite> take_written();

    /// "127.0.0.1:1502", the ports as they came to be.
    std::vector<std::string> places() const;
    int port() const { return servers_.empty() ? 0 : servers_.front()->port(); }
    ServerCounts counts() const;

  private:
    struct Offer {
        int controller = 0;
        std::vector<session::Signal> signals;  ///< By cell.
        std::vector<int> cells;                ///< All.
        std::vector<std::string> names;
        std::shared_ptr<Tables> tables;
    };
    session::SessionModelPtr model_;
    std::vector<Offer> offers_;
    std::vector<std::unique_ptr<Server>> servers_;
};

}  // namespace vyard::link
