// Plays a clip or a recording a stretch at a time: pictures and sound with their times, as far as they
// decode. Lives in the worker process; keeps the file open between two requests.
#pragma once

#include <memory>

#include "media/messages.h"
#include "media/shared_pictures.h"
#include "source/source.h"

namespace dreskel::media {

class ClipPlayer {
  public:
    // Pictures are left in `memory`, which must outlive this.
    ClipPlayer(std::shared_ptr<Source> source, SharedPictures& memory);
    ~ClipPlayer();

    // See DecoderProcess::playFrom. A request without "from" goes on where the last one stopped.
    Message play(const Message& request);

  private:
    class Open;
    std::shared_ptr<Source> source_;
    SharedPictures& memory_;
    std::unique_ptr<Open> open_;
};

}  // namespace dreskel::media
