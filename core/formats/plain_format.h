// A format family whose facts are a few constants and two functions.
#pragma once

#include <algorithm>
#include <type_traits>

#include "formats/walk.h"

namespace dreskel {

struct NamedFormat {
    std::string_view name;
    Kind kind = Kind::Other;
    std::string_view extension;
    std::vector<std::string_view> others = {};  // extensions that mean the same
};

class PlainFormat : public Format {
  public:
    using Matches = bool (*)(Bytes head);
    using Make = std::unique_ptr<Measure> (*)();
    using FirstRecord = std::optional<std::size_t> (*)(Bytes);
    // `runsOn`, `firstRecord`: see Format.
    PlainFormat(std::string_view family, std::vector<NamedFormat> named, Matches matcher, Make make,
                bool runsOn = false, FirstRecord firstRecord = nullptr)
        : family_(family),
          named_(std::move(named)),
          matches_(matcher),
          make_(make),
          runsOn_(runsOn),
          firstRecord_(firstRecord) {}

    std::string_view name() const override { return family_; }
    std::vector<std::string_view> formats() const override {
        std::vector<std::string_view> all;
        for (const auto& format : named_) all.push_back(format.name);
        return all;
    }
    Kind kindOf(std::string_view format) const override { return of(format).kind; }
    std::string_view extension(std::string_view format) const override { return of(format).extension; }
    bool hasExtension(std::string_view extension) const override {
        return Format::hasExtension(extension) ||
               std::any_of(named_.begin(), named_.end(), [&](const NamedFormat& format) {
                   return std::find(format.others.begin(), format.others.end(), extension) !=
                          format.others.end();
               });
    }
    bool matches(Bytes head) const override { return matches_(head); }
    bool runsOn() const override { return runsOn_; }
    std::optional<std::size_t> firstRecordIn(Bytes bytes) const override {
        return firstRecord_ == nullptr ? std::nullopt : firstRecord_(bytes);
    }
    bool isStream() const override { return firstRecord_ != nullptr; }
    std::unique_ptr<Measure> measure() const override { return make_(); }

  private:
    const NamedFormat& of(std::string_view format) const {
        for (const auto& known : named_) {
            if (known.name == format) return known;
        }
        return named_.front();
    }

    std::string_view family_;
    std::vector<NamedFormat> named_;
    Matches matches_;
    Make make_;
    bool runsOn_;
    FirstRecord firstRecord_;
};

template <class Walked>
class Saved : public Walked {
  public:
    std::unique_ptr<Measure> clone() const override {
        if constexpr (std::is_base_of_v<Walk, Walked>) {
            return std::make_unique<Saved>(*this);
        } else {
            return Walked::clone();  // its own, if it has one
        }
    }
};

template <class Walked>
std::unique_ptr<Measure> makeMeasure() {
    return std::make_unique<Saved<Walked>>();
}

}  // namespace dreskel
