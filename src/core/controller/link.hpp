// A controller's link to others: to the machine that executes it, while here stand its tags alone, or to a screen that
// looks at a controller executed here.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/base/base.hpp"
#include "core/controller/registers.hpp"
#include "core/controller/spot.hpp"

namespace vyard::controller {

enum class LinkRole : std::uint8_t {
    Server,  ///< The controller is executed elsewhere and connects to the plant: it writes its outputs, reads its
             ///< inputs.
    Client,  ///< The controller is executed elsewhere; the plant connects to it, reads its outputs, writes its inputs.
    Screen,  ///< The controller is executed here; others connect and look at it, or write what is listed.
};
const char* role_name(LinkRole role);  ///< "server", "client", "screen".

/// One tag on the link.
struct RegisterEntry {
    int variable = 0;
    RegisterPlace place;
    bool to_controller = false;  ///< One of its inputs; else it comes from it.
    bool writable = false;       ///< Screen: it may be written.
    bool by_rule = false;        ///< Its place comes from its address.
    base::Place written;         ///< In the map; unknown for those by rule.
};

/// A tag that repeats what came for an input, both numbers of variables.
struct Echo {
    int input = 0, echo = 0;
};

/// What a controller reads of another one by itself, over the bus.
struct Ask {
    struct Tag {
        Spot to;
        std::string from;     ///< The tag there.
        RegisterPlace place;  ///< There.
        logic::Elementary type = logic::Elementary::Bool;
        bool invert = false;
    };
    std::string name, host;
    int port = 0, unit = 1;
    std::vector<Tag> tags;
};

struct LinkModel {
    LinkRole role = LinkRole::Server;
    std::string host = "127.0.0.1";
    int port = 1502;
    int unit = 1;
    base::Nanoseconds fresh{500'000'000};  ///< What came last is good for so long; then the link is lost.
    base::Nanoseconds period{};            ///< Client: from one exchange to the next; 0 for the scan.
    bool locked = false;                   ///< The plant waits in each scan for the controller's answer to it.
    int handshake = 60'000;                ///< Locked: the register of the count of scans, and of the answer to it.
    base::Nanoseconds patience{5'000'000'000};  ///< Locked: of the wall clock, for an answer.
    std::vector<std::string> from;              ///< Server, screen: addresses that may connect; empty: this machine.
    int clients = 8;                            ///< At once.
    int requests = 1000;                        ///< A second, of each client.
    std::vector<RegisterEntry> registers;
    std::string echo;  ///< How the tags are called that repeat inputs, * for the input: "seen_*"; "" for none.
    std::vector<Echo> echoes;
    std::vector<Ask> asks;
    bool here = false;  ///< What executes the controller here stands in for who does it elsewhere.
    std::uint64_t seed = 1;
    base::Place place;
};

/// What a person has done to a link.
struct LinkFault {
    bool lost = false;          ///< Nothing goes either way.
    bool stuck = false;         ///< What comes is what came last.
    base::Nanoseconds delay{};  ///< From the controller to here.
    double drop_percent = 0.0;  ///< Of the exchanges, lost by chance.

    bool operator==(const LinkFault&) const = default;
};

/// A time without a fresh exchange.
struct LinkLoss {
    base::Nanoseconds from{}, until{};
    bool over = false;
    bool meant = false;  ///< A person had put a fault on the link.
};

/// What is under way from the controller.
struct Arriving {
    base::Nanoseconds due{};
    std::vector<std::byte> outputs;
};

struct LinkState {
    bool up = false;           ///< Something came, and is fresh.
    bool was_up = false;       ///< Ever.
    base::Nanoseconds last{};  ///< When something came last.
    std::uint64_t came = 0;    ///< Exchanges that brought something.
    LinkFault fault;
    base::Rare<Arriving> coming;
    /// Of one that is executed here: what came last, while that is not what memory holds; else empty.
    base::Rare<std::byte> held;
    base::Rare<LinkLoss> losses;  ///< The last is the one that goes on, while the link is not up.
};

/// Who executes a controller elsewhere.
class Partner {
  public:
    virtual ~Partner() = default;
    /// The scan of `controller` that is due at `now`. Its inputs stand in `memory`, laid out as that of its program;
    /// what comes of its outputs goes to the same place in `outputs`, which holds what came before. False: nothing new
    /// came.
    virtual bool exchange(int controller, base::Nanoseconds now, std::span<const std::byte> memory,
                          std::span<std::byte> outputs) = 0;
};

}  // namespace vyard::controller
