// Everything that is declared: names, types, places in memory, initial values. Types and blocks are laid out when they
// are first needed, so the order in the text does not matter; what holds itself is reported.
#pragma once

#include <map>

#include "core/logic/check/scope.hpp"

namespace vyard::logic {

class DeclarationChecker {
  public:
    explicit DeclarationChecker(Checking& checking) : checking_(checking), logic_(checking.logic) {}

    void run();

  private:
    // --- declaration_checker.cpp: names and layouts ---
    void add_standard_blocks();
    void add_types(SyntaxFile& file);
    void add_unit(ProgramUnit& unit);
    void add_methods(int block);
    void add_fields(int block);
    void add_field(Layout& layout, int unit, Declaration& d, const base::SourcePtr& source, const NameContext& context);
    void settle_likes(int block);
    void add_result(int block);
    void add_global(Declaration& d, const base::SourcePtr& source);
    void inherit();
    void extend(int number);
    void bound_extends();
    void check_interfaces(const Layout& block);
    bool matches(const Layout& method, const Layout& prototype) const;
    void locate(Field& field, const Declaration& d, const base::SourcePtr& source);
    void lay_out(int block);
    void lay_out_frame(Layout& layout);
    void place(Field& f, Layout& layout, std::uint32_t& offset, Space space);
    void lay_out_globals();
    // --- configuration_checker.cpp ---
    void add_configurations();
    void add_configuration(Configuration& c);
    void add_task(TaskDeclaration& t, const Configuration& c);
    void add_program(ProgramDeclaration& p, int block, int task, const Configuration& c);
    /// What VAR_CONFIG names within a program instance.
    struct Configured {
        Field* field = nullptr;
        std::uint32_t offset = 0;
        std::string path;
    };
    std::optional<Configured> configured(const ProgramInstance& program, const std::vector<std::string>& parts,
                                         const ConfigDeclaration& d, const Configuration& c);
    void apply_config(const ConfigDeclaration& d, const Configuration& c);
    int unit_named(const std::string& name, const NameContext& context) const;

    // --- type_resolver.cpp ---
    struct TypeEntry {
        TypeDeclaration* declaration = nullptr;
        TypeRef type;
        bool done = false;
        bool in_progress = false;
    };
    /// Where a type is written.
    struct Where {
        const base::SourcePtr& source;
        const NameContext& context;
        int unit;  ///< Whose constants are seen; -1 for the globals alone.
    };
    TypeRef resolve(TypeSpec& spec, const Where& where);
    TypeRef resolve_named(const TypeSpec& spec, const Where& where);
    TypeRef resolve_entry(int number, Span span, const base::SourcePtr& source);
    TypeRef resolve_text(TypeSpec& spec, const Where& where);
    TypeRef resolve_array(TypeSpec& spec, const Where& where);
    TypeRef resolve_structure(TypeSpec& spec, const Where& where, int row);
    TypeRef resolve_enumeration(TypeSpec& spec, const Where& where);
    TypeRef resolve_subrange(TypeSpec& spec, const Where& where);
    TypeRef with_initial(const TypeRef& type, ExpressionPtr& initial, const std::string& name, const Where& where);
    std::optional<std::int64_t> constant(ExpressionPtr& e, const TypeRef& type, const Where& where, const char* what);
    /// False when the size is not known because the type would hold itself; reported.
    bool require_size(const TypeRef& type, Span span, const base::SourcePtr& source);
    int new_type(DerivedType type);
    void add_enum_values(int row);

    // --- initial_values.cpp ---
    void settle(Field& field);
    void settle(Field& field, const Where& where);
    Bytes default_image(const TypeRef& type);
    bool write_initial(ExpressionPtr& e, const TypeRef& type, std::byte* at, const std::string& what,
                       const Where& where);
    bool write_list(Expression& e, const TypeRef& type, std::byte* at, const std::string& what, const Where& where);
    bool write_fields(Expression& e, const TypeRef& type, std::byte* at, const std::string& what, const Where& where);
    void image(int block);
    bool few_parts(std::uint64_t parts, const std::string& name, Span span, const base::SourcePtr& source);
    void count_variables();
    bool reserve(std::uint64_t bytes, Span span, const base::SourcePtr& source);
    bool too_nested(Span span, const base::SourcePtr& source);
    void images();

    void error(const base::SourcePtr& source, Span span, base::Code code, std::string message, std::string hint = {}) {
        checking_.error(source, span, code, std::move(message), std::move(hint));
    }

    static constexpr int kMaxConstantChain = 500;  ///< Constants defined by constants; bounds the checker's stack.
    static constexpr int kMaxTypeNesting = 60;     ///< Types in types, blocks in blocks; bounds the checker's stack.
    struct NestingGuard {
        int& depth;
        explicit NestingGuard(int& d) : depth(d) { ++depth; }
        ~NestingGuard() { --depth; }
        NestingGuard(const NestingGuard&) = delete;
        NestingGuard& operator=(const NestingGuard&) = delete;
    };

    Checking& checking_;
    CheckedLogic& logic_;
    int nesting_ = 0;
    bool nesting_reported_ = false;
    int settling_ = 0;
    bool chain_reported_ = false;
    std::uint64_t parts_ = 0;  ///< Of all variables; see CheckedLogic::parts_of.
    std::uint64_t type_bytes_ = 0;
    std::map<int, TypeEntry> entries_;  ///< By the number of the symbol.
    std::map<const TypeDeclaration*, int> symbol_of_;
};

}  // namespace vyard::logic
