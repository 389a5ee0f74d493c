// How a part of a file is pointed at with the mouse: a click is for everything from there on, a drag for what
// was dragged across.
#pragma once

#include <algorithm>
#include <cmath>
#include <optional>

#include "rebuild/splice.h"

namespace dreskel {

class Pointing {
  public:
    using Stretch = rebuild::SpliceLook::Stretch;

    // `pixel`: along the direction in which the file goes on; `at`: the row or moment there.
    void press(double pixel, std::uint32_t at) { begun_ = now_ = Point{pixel, at}; }
    void move(double pixel, std::uint32_t at) {
        if (begun_) now_ = {pixel, at};
    }
    // What was pointed at; nothing when no button was down.
    std::optional<Stretch> release() {
        const auto pointed = stretch();
        begun_.reset();
        return pointed;
    }
    std::optional<Stretch> stretch() const {
        if (!begun_) return std::nullopt;
        const auto [from, to] = std::minmax(begun_->at, now_.at);
        if (std::abs(now_.pixel - begun_->pixel) < kDrag || from == to)
            return Stretch{now_.at, Stretch::kToTheEnd};
        return Stretch{from, to};
    }

  private:
    static constexpr double kDrag = 8;  // pixels; less is a hand that is not quite still
    struct Point {
        double pixel = 0;
        std::uint32_t at = 0;
    };
    std::optional<Point> begun_;
    Point now_;
};

}  // namespace dreskel
