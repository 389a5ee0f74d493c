// What VP9 codes its elements by ("VP9 Bitstream & Decoding Process Specification", version 0.6): how
// probable each answer is, and how that follows what came. Section numbers are those of the specification.
#pragma once

#include <array>
#include <cstdint>

#include "formats/bool_decoder.h"

namespace dreskel::vp9 {

template <class T, std::size_t First, std::size_t... Further>
struct GridOf {
    using Type = std::array<typename GridOf<T, Further...>::Type, First>;
};
template <class T, std::size_t Last>
struct GridOf<T, Last> {
    using Type = std::array<T, Last>;
};
template <std::size_t... Sizes>
using Grid = typename GridOf<std::uint8_t, Sizes...>::Type;
template <std::size_t... Sizes>
using CountGrid = typename GridOf<std::uint32_t, Sizes...>::Type;

// Of the rows of motion vectors, and of their columns.
struct MotionPart {
    std::uint8_t sign;
    Grid<10> classes;
    Grid<1> nearPixels;
    Grid<10> bits;
    Grid<2, 3> nearFractions;
    Grid<3> fractions;
    std::uint8_t nearEighth, eighth;
};

// How probable the first of two answers is, of 256.
struct Chances {
    Grid<4, 2, 2, 6, 6, 3> coefficients;  // by transform, plane, kind of foretelling, band and neighbours
    Grid<4, 9> lumaModes;
    Grid<10, 9> chromaModes;
    Grid<4, 2> filters;
    Grid<7, 3> motionModes;
    Grid<4> inter;
    Grid<5> compound;
    Grid<5, 2> single;
    Grid<5> second;
    Grid<2, 1> transforms8;
    Grid<2, 2> transforms16;
    Grid<2, 3> transforms32;
    Grid<3> skipped;
    Grid<16, 3> partitions;
    Grid<3> joints;
    std::array<MotionPart, 2> motion;
};

// How often each answer came in a frame.
struct Counts {
    struct Motion {
        CountGrid<2> sign, nearPixels, nearEighth, eighth;
        CountGrid<11> classes;
        CountGrid<10, 2> bits;
        CountGrid<2, 4> nearFractions;
        CountGrid<4> fractions;
    };
    struct Coefficients {
        std::uint32_t asked, over;       // whether there are more
        std::uint32_t zero, one, large;  // what came
    };
    GridOf<Coefficients, 4, 2, 2, 6, 6>::Type coefficients;
    CountGrid<4, 10> lumaModes;
    CountGrid<10, 10> chromaModes;
    CountGrid<4, 3> filters;
    CountGrid<7, 4> motionModes;
    CountGrid<4, 2> inter;
    CountGrid<5, 2> compound;
    CountGrid<5, 2, 2> single;
    CountGrid<5, 2> second;
    CountGrid<2, 2> transforms8;
    CountGrid<2, 3> transforms16;
    CountGrid<2, 4> transforms32;
    CountGrid<3, 2> skipped;
    CountGrid<16, 4> partitions;
    CountGrid<4> joints;
    std::array<Motion, 2> motion;
};

// Two branches a node: zero and below are answers, others where the next node stands (9.3.1).
template <std::size_t Length>
using Tree = std::array<std::int8_t, Length>;
constexpr Tree<18> kIntraModeTree{0, 2, -9, 4, -1, 6, 8, 12, -2, 10, -4, -5, -3, 14, -8, 16, -6, -7};
constexpr Tree<6> kMotionModeTree{-2, 2, 0, 4, -1, -3};
constexpr Tree<4> kFilterTree{0, 2, -1, -2};
constexpr Tree<6> kFourTree{0, 2, -1, 4, -2, -3};  // partitions, joints, transforms
constexpr Tree<6> kFractionTree = kFourTree;
constexpr Tree<20> kClassTree{0, 2, -1, 4, 6, 8, -2, -3, 10, 12, -4, -5, -6, 14, 16, 18, -7, -8, -9, -10};
constexpr Tree<14> kSegmentTree{2, 4, 6, 8, 10, 12, 0, -1, -2, -3, -4, -5, -6, -7};

template <std::size_t Length>
std::size_t readTree(BoolDecoder& bits, const Tree<Length>& tree, const std::uint8_t* chances) {
    std::size_t at = 0;
    for (;;) {
        const int next = tree[at + (bits.bit(chances[at >> 1]) ? 1 : 0)];
        if (next <= 0) return static_cast<std::size_t>(-next);
        at = static_cast<std::size_t>(next);
    }
}

// What the frames before it were like, for how fast chances follow (8.4.2).
enum class Follows { Slowly, AfterKey };

// Section 8.4.3 and 8.4.4: `chances`, as the frame stated them, become those that were there before it, moved
// towards what came. `inter`: the frame builds on others.
struct Adapting {
    bool inter = false, switchableFilter = false, selectsTransform = false, eighths = false;
    Follows follows = Follows::Slowly;
};
void adapt(Chances& chances, const Chances& before, const Counts& counts, const Adapting& how);

}  // namespace dreskel::vp9
