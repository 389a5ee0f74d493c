// Checks coded pictures of clips and photos to the last bit, by following their syntax without rebuilding
// samples. Decoders take foreign bytes for coded blocks as long as they decode to something.
#pragma once

#include <memory>
#include <optional>

#include "base/bytes.h"
#include "formats/clip/picture_order.h"

namespace dreskel {

struct PictureFault {
    std::size_t byte = 0;  // of the bytes that were given: where it was noticed
    const char* why = "";
};

// Follows one stream. Not thread-safe.
class PictureCheck {
  public:
    virtual ~PictureCheck() = default;

    // The next unit of the stream, without its length or start code. Parameter sets are learnt, slices are
    // followed; others, and slices whose sets are not known or ask for what is not followed, are passed
    // over. After a fault the rest of the picture is.
    virtual std::optional<PictureFault> unit(Bytes unit) = 0;
    // The picture is over: whether all of it was there.
    virtual std::optional<PictureFault> endPicture() = 0;
    // Pictures that were followed to their end.
    std::uint64_t pictures() const { return pictures_; }

    // All units of a sample, each behind its length (`lengthSize` bytes): one or more whole pictures.
    std::optional<PictureFault> sample(Bytes sample, std::size_t lengthSize);
    // The same for units behind start codes (ITU-T H.264 and H.265, B.2).
    std::optional<PictureFault> startCoded(Bytes sample);

  protected:
    PictureCheck() = default;
    PictureCheck(const PictureCheck&) = default;
    PictureCheck& operator=(const PictureCheck&) = default;
    void followed() { ++pictures_; }

  private:
    std::uint64_t pictures_ = 0;
};

// The unit whose length stands at a byte of a sample; nothing when it does not lie in the sample.
Bytes unitAt(Bytes sample, std::size_t at, std::size_t lengthSize);

// The unit behind the next start code, without the zeros behind it; nothing when no code follows. `at`: from
// where on; then where the code behind it begins.
std::optional<Bytes> nextUnit(Bytes coded, std::size_t& at);

// `settings`: of an avcC or hvcC box; empty when the sets are in the stream.
std::unique_ptr<PictureCheck> pictureCheck(PictureCoding coding, Bytes settings);

}  // namespace dreskel
