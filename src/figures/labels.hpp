// Names beside what they name: placed one after another, each as near as the others leave room, with a thin line to its
// place. No text lies on another.
#pragma once

#include <string>
#include <vector>

#include "core/plant/plant.hpp"
#include "figures/canvas.hpp"

namespace vyard::figures {

struct Label {
    using Side = plant::Side;  ///< Left is drawn as Right.
    double x = 0, y = 0;       ///< What it names.
    std::string text;
    Side side = Side::Above;
    bool fault = false;
};

class Labels {
  public:
    static constexpr double kText = 11;  ///< Size of the letters.

    explicit Labels(Canvas& canvas) : canvas_(canvas) {}

    void want(Label label) { wanted_.push_back(std::move(label)); }
    /// No text comes here.
    void reserve(const Box& box) { taken_.push_back(box); }
    /// Writes all of them between two heights of the page; returns the texts that found no place at all.
    std::vector<std::string> place(double top, double bottom);

  private:
    bool put(std::size_t n, double top, double bottom);
    bool put_there(std::size_t n, double top, double bottom);
    Box candidate(const Label& l, int ring, double shift, double width, double height) const;
    bool on_a_leader(std::size_t n, const Box& b) const;
    void write(const Label& l, const Box& b);

    Canvas& canvas_;
    std::vector<Label> wanted_;
    std::vector<Box> taken_;
};

}  // namespace vyard::figures
