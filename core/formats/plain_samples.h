// Samples that are stored as they are, of a recording or of a picture. Nothing in them can be checked; but
// they go on over the border of two clusters that belong together, and jump where these do not. What a format
// knows of how they lie, for those who put files together.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>

#include "base/bytes.h"
#include "base/range.h"

namespace dreskel {

// How two stretches of samples go together at a border.
struct Seam {
    // How much worse the samples at the border follow from those before it than others beside it do: up to
    // about 1 they go on, far above it they jump.
    double jump = 0;      // by the better of two directions: what begins just there does not count
    double mismatch = 0;  // by the worse
    // How badly samples behind it follow at all; large where the bytes are no such samples.
    double roughness = 0;
};

// Looks for what is certainly none of a file's, so that it cannot be called whole.
class SamplesCheck {
  public:
    virtual ~SamplesCheck() = default;
    // All the samples, in portions, from the first on.
    virtual void feed(Bytes bytes) = 0;
    // What is wrong, and where; empty when nothing is. Nothing more will come.
    virtual std::string finish() = 0;
};

class PlainSamples {
  public:
    // Up to what seams go on, by their `mismatch` where pieces are tried, by their `jump` within a piece, and
    // by the same where nothing else follows as well.
    struct Bounds {
        double joins, goesOn, goesOnAtOnce;
    };
    PlainSamples(ByteRange range, std::uint64_t fileLength, Bounds bounds)
        : range_(range), fileLength_(fileLength), bounds_(bounds) {}
    virtual ~PlainSamples() = default;

    ByteRange range() const { return range_; }                // of the samples in the file
    std::uint64_t fileLength() const { return fileLength_; }  // bytes, as the file states it
    const Bounds& bounds() const { return bounds_; }

    // For a file that seems whole; null where its format looks itself. Not longer than these samples.
    virtual std::unique_ptr<SamplesCheck> check() const = 0;
    // Why a join is believed, and what is told of a file that was put together so.
    virtual const char* goesOn() const = 0;
    virtual const char* unproven() const = 0;

    // Bytes on each side of a border that it takes to judge it.
    virtual std::size_t before() const = 0;
    virtual std::size_t behind() const = 0;
    // Bytes of what cannot be cut further without losing a sample. Where in one a border lies is known from
    // its place in the file.
    virtual std::size_t unit() const = 0;
    // `before` ends and `behind` begins at the border; `phase`: how many bytes of a unit lie before it.
    // Nothing where there is too little to judge by.
    virtual std::optional<Seam> seam(Bytes before, Bytes behind, std::size_t phase) const = 0;
    // The same where the phase is not known: with the one that makes the bytes behind the border smoothest.
    virtual std::optional<Seam> smoothestSeam(Bytes before, Bytes behind) const = 0;

  private:
    ByteRange range_;
    std::uint64_t fileLength_;
    Bounds bounds_;
};

}  // namespace dreskel
