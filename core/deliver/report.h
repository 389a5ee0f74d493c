// The report that goes with a delivery, for the client and for the technician's own file, and the pages that
// a client chooses from: what they say, apart from how it looks (report_html.h, report_pdf.h).
#pragma once

#include <string>
#include <vector>

#include "deliver/delivery.h"
#include "deliver/phrases.h"
#include "deliver/shop.h"

namespace dreskel {

struct ReportSection {
    std::string heading, note;                   // either may be empty
    std::vector<std::string> columns;            // of numbers; empty where rows are a name and a text
    std::vector<std::vector<std::string>> rows;  // the first cell names the row
    std::vector<std::string> points;
};

struct ReportPicture {
    std::int64_t id =
        0;  // the number that `save --ids` takes, so that a client can name it over the telephone
    std::vector<std::string> lines;
};

struct ReportPage {
    std::string heading, note;
    std::vector<ReportPicture> pictures;  // at most kPicturesAPage
};

struct Report {
    Language language = Language::English;
    std::string title;
    Shop shop;
    std::vector<ReportSection> sections;
    std::string picturesHeading;
    std::vector<ReportPage> pages;
};

inline constexpr std::size_t kPicturesAPage = 20;

// What was found on the card, what was delivered and what was not and why, with a numbered picture of each
// file.
Report deliveryReport(const Job& job, const DeliverySum& sum, const Shop& shop);

// Every file that was found, kept or not, for a client to choose from. Of very many files, parts of a hundred
// pages each.
std::vector<Report> contactPages(const Job& job, const Shop& shop);

}  // namespace dreskel
