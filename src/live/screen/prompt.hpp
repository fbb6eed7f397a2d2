// A line that is being written: editing, what was written before, completion. Knows keys by meaning, and no terminal.
#pragma once

#include <string>
#include <vector>

namespace vyard::live {

class Prompt {
  public:
    const std::u32string& line() const { return line_; }
    std::string text() const;
    std::size_t cursor() const { return cursor_; }
    bool empty() const { return line_.empty(); }

    void insert(char32_t letter);
    void backspace();
    void erase();
    void left();
    void right();
    void home() { cursor_ = 0; }
    void end() { cursor_ = line_.size(); }
    void word_back();  ///< Erases the word before the cursor.
    void erase_to_begin();
    void erase_to_end() { line_.resize(cursor_); }
    void older();
    void newer();
    void clear();
    /// The line as it is done with; it is remembered, and the prompt is empty.
    std::string take();

    /// What stands before the cursor, and puts a completion in the place of its last `replaced` letters.
    std::string before_cursor() const;
    void complete(std::size_t replaced, const std::string& with);

    static constexpr std::size_t kMostRemembered = 500;
    const std::vector<std::string>& remembered() const { return remembered_; }
    void remember(const std::string& line);

  private:
    void show(const std::string& text);

    std::u32string line_, unfinished_;
    std::size_t cursor_ = 0;
    std::vector<std::string> remembered_;
    std::size_t shown_ = 0;  ///< In `remembered_`; its size for the line that is being written.
};

}  // namespace vyard::live
