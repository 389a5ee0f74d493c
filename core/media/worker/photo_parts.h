// Parts of a photo at its full size, for looking closely: the photo is decoded once and held, however many
// parts are asked for. Lives in the worker process.
#pragma once

#include "formats/format.h"
#include "media/messages.h"
#include "source/source.h"

namespace dreskel::media {

class PhotoParts {
  public:
    explicit PhotoParts(std::shared_ptr<Source> source) : source_(std::move(source)) {}

    // See DecoderProcess::photoPart().
    Message part(const Message& request);
    // Lets go of the photo.
    void letGo() { held_ = {}; }

  private:
    std::shared_ptr<Source> source_;
    About about_;  // what is held
    Picture held_;
};

}  // namespace dreskel::media
