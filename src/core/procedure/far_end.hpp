// The far end of a link at the checkout. What a controller that is executed elsewhere has in its tags is told by a tag
// that repeats what came (its echo), or by a person there; what it puts out comes over the link when that person has
// set it.
#pragma once

#include <functional>
#include <optional>
#include <string>

#include "core/procedure/doubts.hpp"

namespace vyard::procedure {

/// A person at the controller.
struct PersonThere {
    std::function<void(const std::string&)> tell;  ///< Says what to look at or what to do.
    /// A line that was typed meanwhile, waiting so long at most; null for none yet.
    std::function<std::optional<std::string>(base::Nanoseconds longest)> answer;
    std::function<bool()> gone;     ///< Nobody will answer any more; what needs nobody is tried all the same.
    std::function<bool()> cut_off;  ///< Nothing is to be tried any more.
};

/// What came of one question.
struct Told {
    bool met = false;
    std::string seen;
    std::string unknown;  ///< Why nobody could tell; "" where somebody did.
};

class FarEnd {
  public:
    /// `session`: with who executes its controllers elsewhere; it is stepped here.
    FarEnd(session::Session& session, PersonThere person) : session_(session), person_(std::move(person)) {}

    /// The point of an input has `value`, and its tag is to read `expected`: by its echo, without one by the person,
    /// who may type what it reads. `right` judges the number that came.
    Told input(const JoinView& join, double value, const std::string& given, const std::string& expected,
               const std::function<bool(double)>& right);
    /// The person is asked to make an output's tag `value`; then its point is to show what `right` says.
    Told output(const JoinView& join, const std::string& value, const std::function<bool(double)>& is_value,
                const std::function<bool(double)>& right);

  private:
    enum class Reply { None, Yes, No, Skip, Other };
    /// A step, then what was typed meanwhile.
    Reply step(bool asks);
    void pass(base::Nanoseconds time);
    bool ended() const { return ends_ || person_.cut_off(); }
    bool alone() const { return ended() || person_.gone(); }
    bool up(const JoinView& join) const;
    Told lost(const JoinView& join) const;
    Told nobody(const char* to) const;
    Told by_echo(const JoinView& join, int echo, const std::function<bool(double)>& right);
    Told by_person(const JoinView& join, const std::string& given, const std::string& expected,
                   const std::function<bool(double)>& right);
    double tag_value(const wiring::Join& join) const;
    /// Until an input and its answer have gone over the link.
    base::Nanoseconds there_and_back(const JoinView& join) const;

    session::Session& session_;
    PersonThere person_;
    std::string typed_;
    bool ends_ = false;
};

}  // namespace vyard::procedure
