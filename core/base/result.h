// Errors are values. An Error says what failed, where, and what the technician can do about it.
#pragma once

#include <cstdint>
#include <string>
#include <utility>
#include <variant>

namespace dreskel {

// What sort of failure it is; the command line turns it into the exit codes of its contract.
enum class Fault {
    Failed,              // a reason of its own, told in the message
    Usage,               // the call itself makes no sense
    SourceUnusable,      // the source could not be opened or is empty
    DestinationRefused,  // nothing was written
    Interrupted,
};

struct Error {
    Fault fault = Fault::Failed;
    std::string what;    // what failed, with the system's own reason
    std::string where;   // path, and offset in bytes where there is one
    std::string advice;  // what to do about it; may be empty

    std::string sentence() const {
        std::string text = what;
        if (!where.empty()) text += " (" + where + ")";
        text += ".";
        if (!advice.empty()) text += " " + advice + ".";
        return text;
    }
};

// A value or an Error. `error()` may only be asked when `ok()` is false, `value()` only when true.
template <typename T>
class [[nodiscard]] Result {
  public:
    Result(T value) : content_(std::move(value)) {}      // NOLINT: meant to convert
    Result(Error error) : content_(std::move(error)) {}  // NOLINT: meant to convert

    bool ok() const { return std::holds_alternative<T>(content_); }
    explicit operator bool() const { return ok(); }
    T& value() { return std::get<T>(content_); }
    const T& value() const { return std::get<T>(content_); }
    const Error& error() const { return std::get<Error>(content_); }

  private:
    std::variant<T, Error> content_;
};

struct Done {};
using Status = Result<Done>;

}  // namespace dreskel
