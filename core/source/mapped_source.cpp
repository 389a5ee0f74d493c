#include "source/mapped_source.h"

#include <cerrno>

#include "base/words.h"

namespace dreskel {
namespace {

class MappedSource : public Source {
  public:
    MappedSource(std::shared_ptr<Source> image, std::shared_ptr<const CopyMap> map)
        : image_(std::move(image)), map_(std::move(map)) {}

    std::uint64_t size() const override { return image_->size(); }
    std::uint32_t sectorSize() const override { return image_->sectorSize(); }
    const std::string& path() const override { return image_->path(); }
    int descriptor() const override { return image_->descriptor(); }
    std::shared_ptr<const CopyMap> map() const override { return map_; }
    ReadOutcome read(std::uint64_t offset, MutableBytes into) const override {
        const auto holes = map_->unread({offset, into.size()});
        if (holes.empty() || holes.front().offset >= size()) return image_->read(offset, into);
        const auto good = static_cast<std::size_t>(holes.front().offset - offset);
        auto outcome = image_->read(offset, into.first(good));
        if (outcome.count == good) outcome.error = EIO;
        return outcome;
    }

  private:
    std::shared_ptr<Source> image_;
    std::shared_ptr<const CopyMap> map_;
};

}  // namespace

Result<std::shared_ptr<Source>> mappedSource(std::shared_ptr<Source> image,
                                             std::shared_ptr<const CopyMap> map) {
    if (image->size() != map->size()) {
        return Error{Fault::SourceUnusable,
                     "The map belongs to a card of " + humanSize(map->size()) + ", the image holds " +
                         humanSize(image->size()),
                     image->path(), "Name the map that was written with this image"};
    }
    return std::shared_ptr<Source>(std::make_shared<MappedSource>(std::move(image), std::move(map)));
}

}  // namespace dreskel
