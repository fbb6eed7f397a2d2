// The list of variables and of pieces of state of a program, with their initial values. Internal to this room.
#pragma once

#include "core/logic/code/expression_writer.hpp"

namespace vyard::logic {

class VariableLister {
  public:
    VariableLister(const CheckedLogic& logic, const Bases& bases, Program& program, Bytes& memory)
        : logic_(logic), bases_(bases), program_(program), memory_(memory) {}

    void globals();
    /// What bodies use by its address alone.
    void direct_addresses();
    void instance(const Layout& layout, std::uint32_t base, const std::string& prefix);

  private:
    /// What of it outlives a start.
    enum class Keeping : std::uint8_t { None, Retained, Persistent };
    static Keeping keeping_of(const Field& f) {
        return f.persistent ? Keeping::Persistent : f.retain ? Keeping::Retained : Keeping::None;
    }
    struct Item {
        std::string path;
        TypeRef type;
        std::uint32_t offset;
        int bit;
        const Field* root;  ///< Where section, comment and place come from.
        bool tag;
        Keeping keeping;
        bool stored;  ///< Part of a piece of state that is listed already.
    };
    void fields(const Layout& layout, std::uint32_t base, const std::string& prefix, bool nested, Keeping keeping,
                bool stored);
    void list(const Item& item);
    void list_array(const Item& item);
    void list_block(const Item& item);
    /// Whether the logic looks at T of steps of charts, by their layout.
    static bool time_read(const Layout& step);
    void store(const Item& item, std::uint32_t size);
    std::shared_ptr<const ValueNames> names_of(int type);

    std::shared_ptr<const std::vector<UseSite>> uses_of(const Field& field);
    static std::vector<UseSite> each_once(std::vector<UseSite> uses);

    const CheckedLogic& logic_;
    const Bases& bases_;
    Program& program_;
    Bytes& memory_;
    std::map<int, std::shared_ptr<const ValueNames>> names_;
    std::map<const Field*, std::shared_ptr<const std::vector<UseSite>>> uses_;
};

}  // namespace vyard::logic
