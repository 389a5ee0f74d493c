// A delivery compared with its manifest, any time later.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "base/control.h"
#include "base/result.h"

namespace dreskel {

struct DeliveryCheck {
    struct Wrong {
        std::string path;  // relative to the folder
        std::string why;
    };
    std::size_t files = 0, same = 0;
    std::vector<Wrong> wrong;  // missing, or not the bytes that were saved
};

// Reads every file that the manifests in `folder` say was saved there. Blocks. Fault::Failed when there is no
// manifest that can be read, Fault::Interrupted when stopped.
Result<DeliveryCheck> checkDelivery(const std::string& folder, Control& control,
                                    const std::function<void(std::size_t done, std::size_t files)>& progress);

}  // namespace dreskel
