// Where a picture may show a face, by a cascade that OpenCV brings along (Viola and Jones): it knows faces
// that look at the camera and takes other things for one now and then. A help to find people, never a fact.
#pragma once

#include <cstdint>
#include <memory>

#include "base/result.h"
#include "formats/format.h"

namespace dreskel::faces {

class FaceFinder {
  public:
    // Fault::Failed where the cascade is not installed.
    static Result<FaceFinder> open();
    FaceFinder(FaceFinder&&) noexcept;
    ~FaceFinder();

    // How many are seen in a picture that stands upright; some 30 ms for 320 by 240 pixels. Faces below a
    // thirteenth of the width of such a picture are not looked for. For one thread at a time.
    std::uint32_t count(const Picture& picture);

  private:
    struct Inside;
    explicit FaceFinder(std::unique_ptr<Inside> inside);
    std::unique_ptr<Inside> inside_;
};

}  // namespace dreskel::faces
