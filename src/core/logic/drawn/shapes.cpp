#include "core/logic/drawn/shapes.hpp"

#include <algorithm>
#include <array>

namespace vyard::logic {

namespace {

constexpr int kRagged = 2;  ///< Columns that a right rail may stand too far to the left; more would take in branches.

/// Whether a cell can be that corner of a box: '+' can be each.
bool corner(const Cell& cell, int links) {
    return cell.joint() && (!cell.drawn || cell.links == links);
}

}  // namespace

Shapes::Shapes(const Grid& grid, Rows rows, DrawnForm form)
    : grid_(grid), rows_(rows), form_(form), width_(grid.width() + 1) {
    const auto height = static_cast<std::size_t>(rows.last - rows.first);
    taken_.resize(height * static_cast<std::size_t>(width_));
    right_ends_.resize(height, -1);
    find_boxes();
    if (form_ == DrawnForm::Ladder) find_rails();
    for (int r = rows_.first; r < rows_.last; ++r) find_symbols(r);
    find_lines();
    for (int r = rows_.first; r < rows_.last; ++r) find_words(r);
}

void Shapes::take(int row, int begin, int end, int element) {
    for (int c = std::max(begin, 0); c < std::min(end, width_); ++c) taken(row, c) = {Use::Shape, element};
}

// --- boxes ---

void Shapes::find_boxes() {
    for (int r = rows_.first; r < rows_.last; ++r) {
        for (int c = 0; c < grid_.width(r); ++c) {
            if (grid_.at(r, c).joint() && use(r, c) != Use::Shape) box_at(r, c);
        }
    }
}

/// The row of the edge that closes a box, with the order that stands in it; -1 for none.
int Shapes::lower_edge(int top, int left, int right, int& order) const {
    for (int r = top + 1; r < rows_.last; ++r) {
        const Cell& a = grid_.at(r, left);
        const Cell& b = grid_.at(r, right);
        if (corner(a, kUp | kRight) && corner(b, kUp | kLeft)) {
            order = 0;
            bool edge = r > top + 1;
            for (int c = left + 1; c < right && edge; ++c) {
                const Cell& cell = grid_.at(r, c);
                const bool digit = cell.character >= '0' && cell.character <= '9';
                if (digit) order = std::min(order * 10 + (cell.character - '0'), 99'999);
                edge = cell.horizontal() || digit;
            }
            if (edge) return r;
        }
        const auto side = [](const Cell& cell) { return cell.vertical() || (cell.drawn && (cell.links & kDown) != 0); };
        if (!side(a) || !side(b)) return -1;
    }
    return -1;
}

/// Whether the upper left corner of a box is here: edges of plain line on all sides, and something written within.
bool Shapes::box_at(int top, int left) {
    if (!corner(grid_.at(top, left), kRight | kDown)) return false;
    int right = left + 1;
    while (grid_.at(top, right).horizontal()) ++right;
    if (right < left + 2 || !corner(grid_.at(top, right), kLeft | kDown)) return false;
    int order = 0;
    const int bottom = lower_edge(top, left, right, order);
    if (bottom < 0) return crooked_box(top, left, right);
    bool written = false;
    for (int c = left + 1; c < right; ++c) written = written || !grid_.at(top + 1, c).blank();
    for (int r = top + 1; r < bottom; ++r) {
        for (int c = left + 1; c < right; ++c) written = written || !grid_.at(r, c).blank();
    }
    if (!written) return false;
    DrawnElement box;
    box.kind = ElementKind::Box;
    box.row = top;
    box.column = left;
    box.height = bottom - top + 1;
    box.width = right - left + 1;
    box.order = order;
    box.span = grid_.span(top, left, box.width);
    const int number = static_cast<int>(elements.size());
    for (int r = top; r <= bottom; ++r) take(r, left, right + 1, number);
    elements.push_back(std::move(box));
    return true;
}

/// The edges of a box, and one side of it in every row, but not both: one mistake, not many.
bool Shapes::crooked_box(int top, int left, int right) {
    int bottom = top + 1;
    while (bottom < rows_.last && (grid_.at(bottom, left).vertical() || grid_.at(bottom, right).vertical())) ++bottom;
    if (bottom == top + 1 || bottom >= rows_.last || !corner(grid_.at(bottom, left), kRight | kUp)) return false;
    int end_of_edge = left + 1;
    while (grid_.at(bottom, end_of_edge).horizontal()) ++end_of_edge;
    if (end_of_edge < left + 2 || !corner(grid_.at(bottom, end_of_edge), kLeft | kUp)) return false;
    bool written = std::abs(end_of_edge - right) <= 2;
    for (int c = left + 1; c < right && written; ++c) written = grid_.at(top + 1, c).links == kNoLink;
    if (!written || grid_.text(top + 1, left + 1, right).empty()) return false;
    const std::size_t before = crooked.size();
    for (int r = top + 1; r <= bottom && crooked.size() == before; ++r) {
        if (r < bottom && !grid_.at(r, left).vertical()) crooked.emplace_back(r, left);
        if (r == bottom ? end_of_edge != right : !grid_.at(r, right).vertical()) crooked.emplace_back(r, right);
    }
    if (crooked.size() == before) return false;
    DrawnElement box;
    box.kind = ElementKind::Box;
    box.height = 0;
    box.span = grid_.span(top, left);
    const int number = static_cast<int>(elements.size());
    elements.push_back(std::move(box));
    for (int r = top; r <= bottom; ++r) {
        int end = std::max(right, end_of_edge) + 1;
        for (int c = right; c < right + 4; ++c) {
            if (grid_.at(r, c).vertical()) end = std::max(end, c + 1);
        }
        take(r, left, end, number);
    }
    return true;
}

// --- rails ---

void Shapes::find_rails() {
    int last = -1;
    for (int r = rows_.first; r < rows_.last; ++r) {
        const int first = grid_.first(r);
        if (first < 0) continue;
        const Cell& cell = grid_.at(r, first);
        const bool rail = (cell.links & (kUp | kDown)) != 0 && use(r, first) != Use::Shape;
        if (rail && (left_rail_ < 0 || first < left_rail_)) left_rail_ = first;
        last = std::max(last, grid_.width(r) - 1);
    }
    for (int r = rows_.first; r < rows_.last; ++r) {
        const Cell& cell = grid_.at(r, last);
        if (last > left_rail_ && (cell.links & (kUp | kDown)) != 0 && use(r, last) != Use::Shape) right_rail_ = last;
    }
    for (int r = rows_.first; r < rows_.last && right_rail_ >= 0; ++r) {
        const int end = grid_.width(r) - 1;
        const bool rail = end >= right_rail_ - kRagged && end > left_rail_ && use(r, end) != Use::Shape &&
                          (grid_.at(r, end).links & (kUp | kDown)) != 0;
        if (rail) right_ends_[static_cast<std::size_t>(r - rows_.first)] = end;
    }
}

// --- contacts and coils ---

bool Shapes::beside_line(int row, int column, std::uint8_t link) const {
    const Cell& cell = grid_.at(row, column);
    if (use(row, column) == Use::Shape) return false;
    return (cell.links & link) != 0 || (in_rail(row, column) && cell.vertical());
}

void Shapes::add_symbol(DrawnElement symbol, int row, int begin, int end) {
    symbol.row = row;
    symbol.column = begin;
    symbol.width = end - begin;
    symbol.span = grid_.span(row, begin, symbol.width);
    take(row, begin, end, static_cast<int>(elements.size()));
    elements.push_back(std::move(symbol));
}

bool Shapes::contact_at(int row, int column) {
    static constexpr std::array<std::pair<std::string_view, ContactKind>, 5> kMarks = {{
        {"", ContactKind::Open},
        {"/", ContactKind::Closed},
        {"P", ContactKind::Rising},
        {"N", ContactKind::Falling},
        {"n", ContactKind::Falling},
    }};
    static constexpr std::array<std::string_view, 6> kComparisons = {"=", "<>", "<", "<=", ">", ">="};
    const auto bar = [&](int c, std::uint8_t side) {
        const Cell& cell = grid_.at(row, c);
        return use(row, c) != Use::Shape && !in_rail(row, c) &&
               (cell.vertical() || (cell.drawn && cell.links == (kUp | kDown | side)));
    };
    if (!bar(column, kLeft)) return false;
    std::string content;
    int end = column + 1;
    for (; end < column + 6 && !bar(end, kRight); ++end) {
        const char c = grid_.at(row, end).character;
        if (grid_.at(row, end).links != kNoLink) return false;
        if (c != ' ') content += c;
    }
    if (end >= column + 6) return false;
    const int sides = (beside_line(row, column - 1, kRight) ? 1 : 0) + (beside_line(row, end + 1, kLeft) ? 1 : 0);
    if (sides < (content.empty() ? 2 : 1)) return false;
    // Lines that only cross this row go on above and below.
    const auto passes = [&](int c) {
        return (grid_.at(row - 1, c).links & kDown) != 0 && (grid_.at(row + 1, c).links & kUp) != 0;
    };
    if (passes(column) || passes(end)) return false;
    DrawnElement contact;
    bool known = false;
    for (const auto& [mark, kind] : kMarks) {
        if (content != mark && !(content == "p" && mark == "P")) continue;
        contact.contact = kind;
        known = true;
    }
    if (std::find(kComparisons.begin(), kComparisons.end(), content) != kComparisons.end()) {
        contact.contact = ContactKind::Compare;
        contact.comparison = content;
        known = true;
    }
    if (!known) return false;
    contact.kind = ElementKind::Contact;
    add_symbol(std::move(contact), row, column, end + 1);
    return true;
}

bool Shapes::coil_at(int row, int column) {
    static constexpr std::array<std::pair<std::string_view, CoilKind>, 9> kMarks = {{
        {"", CoilKind::Plain},
        {"/", CoilKind::Negated},
        {"s", CoilKind::Set},
        {"r", CoilKind::Reset},
        {"p", CoilKind::Rising},
        {"n", CoilKind::Falling},
        {"m", CoilKind::Plain},
        {"sm", CoilKind::Set},
        {"rm", CoilKind::Reset},
    }};
    if (grid_.at(row, column).character != '(' || !beside_line(row, column - 1, kRight)) return false;
    std::string content;
    int end = column + 1;
    for (; end < column + 7 && grid_.at(row, end).character != ')'; ++end) {
        if (!grid_.at(row, end).blank()) content += grid_.at(row, end).character;
    }
    if (end >= column + 7) return false;
    const std::string folded = base::fold(content);
    for (const auto& [mark, kind] : kMarks) {
        if (folded != mark) continue;
        DrawnElement coil;
        coil.kind = ElementKind::Coil;
        coil.coil = kind;
        add_symbol(std::move(coil), row, column, end + 1);
        return true;
    }
    return false;
}

void Shapes::find_symbols(int row) {
    for (int c = 0; c < grid_.width(row); ++c) {
        if (use(row, c) != Use::Shape && !contact_at(row, c)) coil_at(row, c);
    }
}

// --- lines and words ---

/// A single '-' is a line beside a shape or a joint, else part of a text such as a - 1.
bool Shapes::single_line(int row, int column) const {
    for (const int c : {column - 1, column + 1}) {
        const Cell& beside = grid_.at(row, c);
        if (use(row, c) == Use::Shape || beside.joint() || beside.drawn || in_rail(row, c)) return true;
        if (beside.vertical()) return true;
    }
    return false;
}

/// Whether a '+' has a line beside it, and so is no sign.
bool Shapes::joins(int row, int column) const {
    if (in_rail(row, column) || grid_.at(row, column).drawn) return true;
    for (const int c : {column - 1, column + 1}) {
        if (use(row, c) == Use::Shape || grid_.at(row, c).horizontal() || grid_.at(row, c).joint()) return true;
    }
    for (const int r : {row - 1, row + 1}) {
        if (r >= rows_.first && r < rows_.last && use(r, column) != Use::Shape && grid_.at(r, column).vertical())
            return true;
    }
    return false;
}

void Shapes::find_lines() {
    for (int r = rows_.first; r < rows_.last; ++r) {
        // `o`, `<` and `>` between a line and the side of a box belong to the pin.
        for (int c = 0; c < grid_.width(r); ++c) {
            const char mark = grid_.at(r, c).character;
            if (use(r, c) == Use::Shape || std::string_view("oO<>").find(mark) == std::string_view::npos) continue;
            for (const int side : {-1, 1}) {
                const int number = owner(r, c + side);
                const bool line = (grid_.at(r, c - side).links & (side > 0 ? kRight : kLeft)) != 0;
                if (number < 0 || elements[static_cast<std::size_t>(number)].kind != ElementKind::Box || !line)
                    continue;
                take(r, c, c + 1, number);
                break;
            }
        }
        for (int c = 0; c < grid_.width(r); ++c) {
            const Cell& cell = grid_.at(r, c);
            if (cell.blank() || use(r, c) == Use::Shape) continue;
            bool line = cell.links != kNoLink;
            if (cell.horizontal() && !cell.drawn) {
                const bool run = grid_.at(r, c - 1).horizontal() || grid_.at(r, c + 1).horizontal();
                line = run || single_line(r, c);
            } else if (cell.joint()) {
                line = joins(r, c);
            }
            taken(r, c).use = line ? Use::Line : Use::Text;
        }
    }
}

/// Blanks divide words, but not within brackets and quotes.
void Shapes::find_words(int row) {
    int depth = 0;
    char quote = '\0';
    Word word{row, -1, -1, false};
    const auto close = [&] {
        if (word.begin >= 0) words.push_back(word);
        word = {row, -1, -1, false};
        depth = 0;
        quote = '\0';
    };
    for (int c = 0; c < grid_.width(row); ++c) {
        const Use here = use(row, c);
        const bool within = word.begin >= 0 && (depth > 0 || quote != '\0');
        if (here == Use::Line || here == Use::Shape || (here == Use::Blank && !within)) {
            close();
            continue;
        }
        if (here == Use::Blank) continue;
        const char character = grid_.at(row, c).character;
        if (word.begin < 0) word.begin = c;
        word.end = c + 1;
        if (quote != '\0') {
            if (character == quote) quote = '\0';
        } else if (character == '\'' || character == '"') {
            quote = character;
        } else if (character == '[' || character == '(') {
            ++depth;
        } else if ((character == ']' || character == ')') && depth > 0) {
            --depth;
        }
    }
    close();
}

}  // namespace vyard::logic
