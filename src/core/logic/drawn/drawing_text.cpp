// A drawing taken apart into networks and comments, and put together from them.
#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "core/base/base.hpp"
#include "core/logic/drawn/blocks.hpp"
#include "core/logic/drawn/drawing_writer.hpp"
#include "core/logic/drawn/grid.hpp"

namespace vyard::logic {

namespace {

class NoteReader {
  public:
    explicit NoteReader(const Drawing& drawing)
        : drawing_(drawing), grid_(drawing.text, drawing.offset, drawing.span.line + 1) {}

    std::vector<DrawingNote> read() {
        for (int r = 0; r < grid_.rows();) {
            if (network_ < static_cast<int>(drawing_.networks.size()) && network().first_row == r) {
                end_note(true);
                for (; r < network().last_row; ++r) beside(r);
                ++network_;
                continue;
            }
            const bool blank = grid_.first(r) < 0;
            const bool label = !blank && grid_.written(r).find(':') != std::string::npos;
            if (blank && !grid_.commented(r)) end_note(false);
            if (grid_.commented(r)) {
                text_.append(open_ ? 1 : 0, '\n');
                text_.append(grid_.comment(r));
                open_ = true;
            }
            if (!blank && !label) end_note(false);  // bare rails
            ++r;
        }
        end_note(false);
        return std::move(out_);
    }

  private:
    const Network& network() const { return base::at(drawing_.networks, network_); }

    void end_note(bool title) {
        while (text_.ends_with('\n')) text_.pop_back();
        if (text_.find_first_not_of('\n') != std::string::npos) {
            text_.erase(0, text_.find_first_not_of('\n'));
            out_.push_back({network_, -1, title, std::move(text_)});
        }
        text_.clear();
        open_ = false;
    }

    void beside(int row) {
        const int element = grid_.comment(row).empty() ? -1 : nearest_element(network(), row);
        if (element >= 0) out_.push_back({network_, element, false, grid_.comment(row)});
    }

    const Drawing& drawing_;
    Grid grid_;
    int network_ = 0;
    std::string text_;
    bool open_ = false;
    std::vector<DrawingNote> out_;
};

class Composer {
  public:
    Composer(const Drawing& drawing, const std::vector<DrawingNote>& notes) : drawing_(drawing), notes_(notes) {}

    std::vector<WrittenRow> run() {
        const std::vector<WrittenNetwork> written = write_networks(drawing_.networks, drawing_.form);
        const int count = static_cast<int>(written.size());
        for (int i = 0; i <= count; ++i) {
            if (i > 0) blank();
            above(i, false);
            if (i == count) break;
            const std::string& label = base::at(drawing_.networks, i).label.text;
            if (!label.empty()) add(i, -1, fmt::format("{}:", label));
            above(i, true);
            network(i, base::at(written, i));
        }
        for (const DrawnText& label : drawing_.labels_behind) add(-1, -1, fmt::format("{}:", label.text));
        while (!out_.empty() && out_.back().text.empty()) out_.pop_back();
        return std::move(out_);
    }

  private:
    void add(int network, int element, std::string text) { out_.push_back({std::move(text), network, element}); }
    void blank() {
        if (!out_.empty() && !out_.back().text.empty()) add(-1, -1, "");
    }

    void above(int network, bool titles) {
        for (const DrawingNote& note : notes_) {
            if (note.network != network || note.element >= 0 || note.title != titles) continue;
            for (std::size_t at = 0; at <= note.text.size();) {
                const std::size_t end = std::min(note.text.find('\n', at), note.text.size());
                const std::string line(note.text, at, end - at);
                add(network, -1, line.empty() ? "//" : fmt::format("// {}", line));
                at = end + 1;
            }
            if (!titles) blank();
        }
    }

    void network(int number, const WrittenNetwork& written) {
        std::map<int, std::string> beside;
        for (const DrawingNote& note : notes_) {
            if (note.network != number || note.element < 0) continue;
            std::string& there = beside[base::at(written.row_of, note.element)];
            there = fmt::format("{}{}{}", there, there.empty() ? "" : "; ", note.text);
        }
        int widest = 0;
        for (const std::string& row : written.rows) widest = std::max(widest, text_width(row));
        for (int r = 0; r < static_cast<int>(written.rows.size()); ++r) {
            std::string row = base::at(written.rows, r);
            if (const auto found = beside.find(r); found != beside.end()) {
                row.append(static_cast<std::size_t>(widest - text_width(row)), ' ');
                row = fmt::format("{}  // {}", row, found->second);
            }
            add(number, shown_at(written, r), std::move(row));
        }
    }

    static int shown_at(const WrittenNetwork& written, int row) {
        int best = -1, distance = 0;
        for (int i = 0; i < static_cast<int>(written.row_of.size()); ++i) {
            const int off = std::abs(base::at(written.row_of, i) - row);
            if (best >= 0 && off >= distance) continue;
            best = i;
            distance = off;
        }
        return best;
    }

    const Drawing& drawing_;
    const std::vector<DrawingNote>& notes_;
    std::vector<WrittenRow> out_;
};

}  // namespace

std::vector<DrawingNote> notes_of(const Drawing& drawing) {
    return NoteReader(drawing).read();
}

std::vector<WrittenRow> write_drawing(const Drawing& drawing, const std::vector<DrawingNote>& notes) {
    return Composer(drawing, notes).run();
}

}  // namespace vyard::logic
