#include "formats/format.h"

namespace dreskel {

bool Format::hasExtension(std::string_view extension) const {
    for (const auto format : formats()) {
        if (format == extension || this->extension(format) == extension) return true;
    }
    return false;
}

}  // namespace dreskel
