// The checkout of a controller that is executed elsewhere, against a partner that does as it is told: every mistake at
// the far end, with echoes and with a person, and what each line then has to come to.
#include "core/procedure/checkout.hpp"
#include "support.hpp"

using namespace vyard;
using namespace vyard::test;
using procedure::CheckoutVerdict;

namespace {

constexpr const char* kFarTags =
    "VAR_GLOBAL a AT %IX0.0 : BOOL; b AT %IX0.1 : BOOL; knob AT %IW2 : INT; lamp AT %QX0.0 : BOOL; shown AT %QW2 : "
    "INT; "
    "see_a AT %MX0.0 : BOOL; see_b AT %MX0.1 : BOOL; see_knob AT %MW2 : INT; END_VAR\n";

session::SessionModelPtr far_model(const std::string& echo) {
    PlantText p;
    p.add("button.a", {}).add("button.b", {}).add("potentiometer.k", {}).add("lamp.l", {}).add("display.d", {});
    session::Definition out = make_definition(kFarTags, p,
                                              {{"a", "a", ""},
                                               {"b", "b", ""},
                                               {"knob", "k", "0 %..100 % -> 0..1000"},
                                               {"lamp", "l", ""},
                                               {"shown", "d", ""}});
    controller::LinkModel& link = out.controllers[0].link.emplace().model;
    link.role = controller::LinkRole::Server;
    link.fresh = base::Nanoseconds(50'000'000);
    link.echo = echo;
    return test::build(out);
}

enum class Mistake { None, Crossed, Inverted, Halved, Silent, WrongRegister };

/// Repeats its inputs, with a mistake, and puts out what the person has set.
class Told final : public controller::Partner {
  public:
    Told(const session::SessionModel& model, Mistake mistake)
        : program_(*model.controllers[0].program), mistake_(mistake) {}

    bool exchange(int, base::Nanoseconds, std::span<const std::byte> memory, std::span<std::byte> outputs) override {
        bool a = get(memory, "a") != 0, b = get(memory, "b") != 0;
        std::int64_t knob = get(memory, "knob");
        if (mistake_ == Mistake::Crossed) std::swap(a, b);
        if (mistake_ == Mistake::Inverted) a = !a;
        if (mistake_ == Mistake::Halved) knob /= 2;
        reads_ = {{"a", a}, {"b", b}, {"knob", knob}};
        if (mistake_ == Mistake::Silent) return false;
        put(outputs, "see_a", a);
        put(outputs, "see_b", b);
        put(outputs, "see_knob", knob);
        put(outputs, mistake_ == Mistake::WrongRegister ? "see_a" : "lamp", lamp);
        put(outputs, "shown", shown);
        return true;
    }
    std::int64_t reads(const std::string& tag) const { return reads_.at(tag); }

    bool lamp = false;
    std::int64_t shown = 0;

  private:
    std::int64_t get(std::span<const std::byte> memory, const char* name) const {
        const logic::Variable& v = *program_.find(name);
        return static_cast<std::int16_t>(logic::read_value(memory.data(), v.type, v.offset, v.bit).bits);
    }
    void put(std::span<std::byte> memory, const char* name, std::int64_t value) const {
        const logic::Variable& v = *program_.find(name);
        logic::write_value(memory.data(), logic::value_of(v.type, static_cast<double>(value)), v.offset, v.bit);
    }

    const logic::Program& program_;
    Mistake mistake_;
    std::map<std::string, std::int64_t> reads_;
};

/// A person who looks at the controller and types what is there, and sets what he is told to.
class Person {
  public:
    Person(Told& told, bool there) : told_(told), there_(there) {}
    procedure::PersonThere hands() {
        return {[this](const std::string& text) { asked(text); },
                [this](base::Nanoseconds) { return std::exchange(answer_, std::nullopt); }, [this] { return !there_; },
                [] { return false; }};
    }
    int questions = 0;

  private:
    void asked(const std::string& text) {
        ++questions;
        if (text.starts_with("Set lamp to ")) told_.lamp = text.starts_with("Set lamp to TRUE");
        if (text.starts_with("Set shown to ")) told_.shown = std::stoll(text.substr(13));
        const std::size_t at = text.find("Does ");
        if (at == std::string::npos) {
            if (text.starts_with("Set lamp")) answer_ = "";  // it is set; with the wrong register it never comes
            return;
        }
        const std::string tag = text.substr(at + 5, text.find(' ', at + 5) - at - 5);
        answer_ = tag == "knob" ? std::to_string(told_.reads(tag)) : told_.reads(tag) != 0 ? "TRUE" : "FALSE";
    }

    Told& told_;
    bool there_;
    std::optional<std::string> answer_;
};

}  // namespace

TEST_CASE("each mistake at the far end fails the lines that it is in, told by echoes or by a person") {
    for (const std::string& echo : {std::string("see_*"), std::string()}) {
        const auto model = far_model(echo);
        CHECK(model->controllers[0].link->echoes.size() == (echo.empty() ? 0 : 3));
        for (const Mistake mistake : {Mistake::None, Mistake::Crossed, Mistake::Inverted, Mistake::Halved,
                                      Mistake::Silent, Mistake::WrongRegister}) {
            for (const bool there : {true, false}) {
                Told told(*model, mistake);
                session::Session session(model, nullptr, &told);
                session.step();
                Person person(told, there);
                procedure::FarEnd far(session, person.hands());
                const auto lines = procedure::check_out(model, {}, &far);
                REQUIRE(lines.size() == 5);
                for (const auto& line : lines) {
                    const bool asks = !line.input || echo.empty();
                    bool wrong = false;
                    if (line.tag == "a") wrong = mistake == Mistake::Crossed || mistake == Mistake::Inverted;
                    if (line.tag == "b") wrong = mistake == Mistake::Crossed;
                    if (line.tag == "knob") wrong = mistake == Mistake::Halved;
                    if (line.tag == "lamp") wrong = mistake == Mistake::WrongRegister;
                    // Its echo is overwritten.
                    if (line.tag == "a" && mistake == Mistake::WrongRegister && !echo.empty()) wrong = true;
                    const bool untried = mistake == Mistake::Silent || (asks && !there);
                    const auto expected = untried ? CheckoutVerdict::NotTried
                                          : wrong ? CheckoutVerdict::Failed
                                                  : CheckoutVerdict::Passed;
                    CHECK_MESSAGE(line.verdict == expected, line.tag << " echo '" << echo << "' mistake "
                                                                     << static_cast<int>(mistake) << " there " << there
                                                                     << ": " << line.remark);
                    CHECK(line.probes.empty() == untried);
                }
                if (!there) CHECK(person.questions == 0);
            }
        }
    }
}

TEST_CASE("without who executes it elsewhere a checkout tries nothing, and says why") {
    for (const auto& line : procedure::check_out(far_model("see_*"))) {
        CHECK(line.verdict == CheckoutVerdict::NotTried);
        CHECK(line.remark == "its controller is executed elsewhere, and is not connected");
    }
}

TEST_CASE("who quits leaves the rest out by hand; what repeats its inputs is not tried either") {
    const auto model = far_model("");
    Told told(*model, Mistake::None);
    session::Session session(model, nullptr, &told);
    session.step();
    int asked = 0;
    procedure::FarEnd far(session, {[&](const std::string&) { ++asked; },
                                    [](base::Nanoseconds) { return std::optional<std::string>("q"); },
                                    [] { return false; }, [] { return false; }});
    for (const auto& line : procedure::check_out(model, {}, &far)) {
        CHECK(line.verdict == CheckoutVerdict::NotTried);
        CHECK(line.remark == "left out by hand");
    }
    CHECK(asked == 1);
}
