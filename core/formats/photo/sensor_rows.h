// Sensor data whose samples are coded one after the other, each by its difference to what those before it
// foretell. Foreign bytes decode to samples, too; they are told by codes and samples that cannot be, by rows
// that have nothing to do with those above, and by where the picture ends.
#pragma once

#include <cstdint>
#include <memory>
#include <string>

#include "base/bytes.h"

namespace dreskel {

// Follows one stretch of sensor data. Bytes come in order, in portions.
class SensorRows {
  public:
    // NotUnderstood: it went wrong so soon that it is rather coded in another way.
    enum class State { Hungry, Ended, Broken, NotUnderstood };

    virtual ~SensorRows() = default;
    // A state to go on from with other bytes.
    virtual std::unique_ptr<SensorRows> clone() const = 0;
    virtual State feed(Bytes bytes, bool last) = 0;
    // A row that does hardly follow those above is wrong then.
    virtual void lookClosely(bool closely) = 0;
    virtual std::uint64_t offset() const = 0;  // how far the data make sense
    virtual const std::string& why() const = 0;
};

// What a file says of how its sensor data are coded.
class SensorCoding {
  public:
    virtual ~SensorCoding() = default;
    // `at`: where in the file the data stand.
    virtual std::unique_ptr<SensorRows> rows(std::uint64_t at) const = 0;
};

// As a plain value: copies are states to go on from.
class SensorState {
  public:
    explicit SensorState(std::unique_ptr<SensorRows> rows) : rows_(std::move(rows)) {}
    SensorState(const SensorState& other) : rows_(other.rows_->clone()) {}
    SensorState& operator=(const SensorState& other) {
        rows_ = other.rows_->clone();
        return *this;
    }
    SensorState(SensorState&&) noexcept = default;
    SensorState& operator=(SensorState&&) noexcept = default;
    SensorRows* operator->() { return rows_.get(); }

  private:
    std::unique_ptr<SensorRows> rows_;  // never null, but after a move
};

}  // namespace dreskel
