// Follows a photo's stretches of picture data, once its directories are read, from the front to the back.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "formats/format.h"
#include "formats/photo/area_check.h"

namespace dreskel {

// Areas in order of place, not overlapping.
using Areas = std::vector<Area>;

// A plain value: a copy is a state to go on from with other bytes; see Measure, whose part it plays.
class AreaWalk {
  public:
    void start(std::shared_ptr<const Areas> areas);

    std::optional<Measure::Want> want() const;
    void give(Bytes bytes);
    bool giveSome(Bytes bytes);
    void lookClosely(bool closely);
    bool sound() const { return why_.empty(); }
    const std::string& why() const { return why_; }
    std::uint64_t reached() const { return position_; }  // up to here the data are right
    // The same, but not behind what lies between two stretches, of which nothing is known.
    std::uint64_t proven() const;

    // What a measure says of the areas: the file's media and previews.
    void describe(Measured& into) const;

  private:
    const Area* inHand() const { return areas_ && next_ < areas_->size() ? &(*areas_)[next_] : nullptr; }
    void take(Bytes bytes);
    void begin();
    void wrong(const std::string& why);

    std::shared_ptr<const Areas> areas_;  // copies share it
    std::size_t next_ = 0;
    std::optional<AreaCheck> check_;
    std::uint64_t position_ = 0, taken_ = 0;  // up to here the data were taken in
    bool closely_ = false;
    std::string why_;
};

// What the measures of such photos have in common.
class AreaMeasure : public Measure {
  public:
    bool sound() const override { return walk_.sound(); }
    std::uint64_t reached() const override { return walk_.reached(); }
    void lookClosely(bool closely) override { walk_.lookClosely(closely); }
    bool closeLookIsSure() const override { return false; }

  protected:
    AreaWalk walk_;  // begins once the directories are read
};

}  // namespace dreskel
