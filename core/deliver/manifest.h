// What became of each file of a delivery, for people, for programs, and for `sha256sum -c`.
#pragma once

#include <string>

#include "deliver/delivery.h"

namespace dreskel {

std::string manifestCsv(const DeliverySum& sum);
// As docs/contract.md promises it.
std::string manifestJson(const Job& job, const DeliverySum& sum);
std::string checksumsOf(const DeliverySum& sum);

}  // namespace dreskel
