// The report that goes with a delivery, for the client and for the technician's own file: one page of HTML
// that stands alone (pictures inside, no scripts, nothing from elsewhere) and prints on paper.
#pragma once

#include <string>

#include "deliver/delivery.h"
#include "deliver/shop.h"

namespace dreskel {

// What was found on the card, what was delivered and what was not and why, with a numbered picture of each
// file. The numbers are those of `save --ids`, so that a client can name them over the telephone.
std::string reportOf(const Job& job, const DeliverySum& sum, const Shop& shop);

// Every file that was found, kept or not, for a client to choose from: the same numbers, twenty a page.
std::string contactPagesOf(const Job& job, const Shop& shop);

}  // namespace dreskel
