// How names are found: the one thing that differs between the bodies of program units and the conditions of
// procedures.
#pragma once

#include <functional>
#include <optional>

#include "core/logic/check/symbols.hpp"

namespace vyard::logic {

/// What a name means where it stands.
struct Found {
    Binding binding;
    TypeRef type;
    bool writable = true;
    const char* why_not_writable = "";
    Field* field = nullptr;                      ///< Null where variables are not the logic's own.
    std::optional<base::Dimension> dimension{};  ///< Of a quantity of the plant, in SI.
    bool edge = false;  ///< It is an input with R_EDGE or F_EDGE, seen from within the block that declares it.
};

enum class Use : std::uint8_t { Read, Write };

class Scope {
  public:
    virtual ~Scope() = default;
    /// Resolves a name or a direct address; reports and returns null when it cannot.
    virtual std::optional<Found> find(const std::string& name, Span span, Use use) = 0;
    /// Whether `name` is a variable here; reports nothing.
    virtual bool knows(const std::string& name) const = 0;
    /// The type of the variable `name`; None when there is none. Reports nothing.
    virtual TypeRef peek(const std::string&) const { return {}; }
    /// Whether dotted names are looked up whole.
    virtual bool dotted_names() const { return false; }
    /// One byte that remembers a value between two looks, for RISES and FALLS; null where these are not allowed.
    virtual std::optional<Binding> edge_memory() { return std::nullopt; }
    /// The logic around; null in conditions.
    virtual CheckedLogic* logic() { return nullptr; }
    virtual const Symbols* symbols() const { return nullptr; }
    virtual const NameContext& context() const;
    /// The unit whose body this is; -1 outside of one.
    virtual int unit() const { return -1; }
    /// Makes the initial value of a constant known.
    virtual void settle(Field&) {}
};

/// What all of a check shares.
struct Checking {
    CheckedLogic& logic;
    Symbols& symbols;
    base::Diagnostics& diagnostics;
    std::function<void(Field&)> settle;

    void error(const base::SourcePtr& source, Span span, base::Code code, std::string message, std::string hint = {}) {
        diagnostics.error(code, place_in(source, span), std::move(message), std::move(hint));
    }
    void warning(const base::SourcePtr& source, Span span, base::Code code, std::string message,
                 std::string hint = {}) {
        diagnostics.warning(code, place_in(source, span), std::move(message), std::move(hint));
    }
};

/// Names as a program unit sees them: its own variables first, those of its block, then the globals.
class UnitScope final : public Scope {
  public:
    /// `unit` -1 sees only globals.
    UnitScope(Checking& checking, int unit, const NameContext& context, const base::SourcePtr& source)
        : checking_(checking), unit_(unit), context_(context), source_(source) {}

    std::optional<Found> find(const std::string& name, Span span, Use use) override;
    bool knows(const std::string& name) const override;
    TypeRef peek(const std::string& name) const override;
    CheckedLogic* logic() override { return &checking_.logic; }
    const Symbols* symbols() const override { return &checking_.symbols; }
    const NameContext& context() const override { return context_; }
    int unit() const override { return unit_; }
    void settle(Field& field) override {
        if (checking_.settle) checking_.settle(field);
    }
    /// Reports a VAR_EXTERNAL without its VAR_GLOBAL, or of another type.
    void check_external(const Field& declared);
    /// The variable itself, of a VAR_EXTERNAL its global; null when there is none. Notes and reports nothing.
    const Field* look(const std::string& name) const;

  private:
    Field* own(const std::string& name) const;
    Field* global(const std::string& name) const;
    Field* external(const std::string& name, const Field& declared);
    std::optional<Found> found(Field& field, Use use);
    std::optional<Found> find_direct(const std::string& name, Span span, Use use);
    std::vector<std::string> known_names() const;

    Checking& checking_;
    int unit_;
    const NameContext& context_;
    const base::SourcePtr& source_;
};

/// The same names, but nothing is noted of who reads or writes them, and nothing reported. For a look at what stands,
/// and is checked, elsewhere.
class QuietScope final : public Scope {
  public:
    QuietScope(Checking& checking, int unit, const NameContext& context, const base::SourcePtr& source)
        : names_(checking, unit, context, source), unit_(unit) {}

    std::optional<Found> find(const std::string& name, Span span, Use use) override;
    bool knows(const std::string& name) const override { return names_.knows(name); }
    TypeRef peek(const std::string& name) const override { return names_.peek(name); }
    CheckedLogic* logic() override { return names_.logic(); }
    const Symbols* symbols() const override { return names_.symbols(); }
    const NameContext& context() const override { return names_.context(); }
    int unit() const override { return unit_; }
    void settle(Field& field) override { names_.settle(field); }

  private:
    UnitScope names_;
    int unit_;
};

Space space_of(Area area);

}  // namespace vyard::logic
