#include "live/screen/prompt.hpp"

#include <algorithm>

#include "live/screen/surface.hpp"

namespace vyard::live {

namespace {

std::string utf8(std::u32string_view letters) {
    std::string out;
    for (const char32_t c : letters) out += utf8_of(c);
    return out;
}

}  // namespace

std::string Prompt::text() const {
    return utf8(line_);
}

void Prompt::insert(char32_t letter) {
    line_.insert(cursor_, 1, letter);
    ++cursor_;
}

void Prompt::backspace() {
    if (cursor_ > 0) line_.erase(--cursor_, 1);
}

void Prompt::erase() {
    if (cursor_ < line_.size()) line_.erase(cursor_, 1);
}

void Prompt::left() {
    if (cursor_ > 0) --cursor_;
}

void Prompt::right() {
    if (cursor_ < line_.size()) ++cursor_;
}

void Prompt::word_back() {
    std::size_t begin = cursor_;
    while (begin > 0 && line_[begin - 1] == U' ') --begin;
    while (begin > 0 && line_[begin - 1] != U' ') --begin;
    line_.erase(begin, cursor_ - begin);
    cursor_ = begin;
}

void Prompt::erase_to_begin() {
    line_.erase(0, cursor_);
    cursor_ = 0;
}

void Prompt::older() {
    if (shown_ == 0) return;
    if (shown_ == remembered_.size()) unfinished_ = line_;
    show(remembered_[--shown_]);
}

void Prompt::newer() {
    if (shown_ >= remembered_.size()) return;
    if (++shown_ == remembered_.size()) {
        line_ = unfinished_;
        cursor_ = line_.size();
    } else {
        show(remembered_[shown_]);
    }
}

void Prompt::show(const std::string& text) {
    line_ = letters_of(text);
    cursor_ = line_.size();
}

void Prompt::clear() {
    line_.clear();
    unfinished_.clear();
    cursor_ = 0;
    shown_ = remembered_.size();
}

std::string Prompt::take() {
    std::string out = text();
    remember(out);
    clear();
    return out;
}

void Prompt::remember(const std::string& line) {
    const bool worth = line.find_first_not_of(' ') != std::string::npos;
    if (worth && (remembered_.empty() || remembered_.back() != line)) remembered_.push_back(line);
    if (remembered_.size() > kMostRemembered) remembered_.erase(remembered_.begin());
    shown_ = remembered_.size();
}

std::string Prompt::before_cursor() const {
    return utf8(std::u32string_view(line_).substr(0, cursor_));
}

void Prompt::complete(std::size_t replaced, const std::string& with) {
    const std::size_t count = std::min(replaced, cursor_);
    line_.erase(cursor_ - count, count);
    cursor_ -= count;
    const std::u32string letters = letters_of(with);
    line_.insert(cursor_, letters);
    cursor_ += letters.size();
}

}  // namespace vyard::live
