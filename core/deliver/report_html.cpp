#include "deliver/report_html.h"

#include <openssl/evp.h>

#include <algorithm>

namespace dreskel {
namespace {

constexpr const char* kStyle =
    "body{font:14px/1.45 sans-serif;color:#24272b;background:#fff;margin:2em auto;max-width:60em;padding:0 "
    "1em}"
    "h1{font-size:1.7em;margin:.2em 0}h2{font-size:1.15em;margin:1.8em 0 .5em}"
    "table{border-collapse:collapse}td,th{text-align:left;padding:.2em 1.4em .2em 0;vertical-align:top}"
    "th{font-weight:600}td.n{text-align:right}.dim{color:#6c6e70}table{margin:.8em "
    "0}header{display:flex;gap:1.5em;align-items:"
    "center}"
    "header img{max-height:5em}.page{display:grid;grid-template-columns:repeat(5,1fr);gap:1em;margin:1em 0}"
    "figure{margin:0;break-inside:avoid}figure img,figure "
    "svg{width:100%;height:7.4em;object-fit:contain;background:#f0eee8}"
    "figcaption{font-size:.82em;overflow-wrap:anywhere}figcaption b{font-size:1.25em}"
    "@media print{body{margin:0;max-width:none}.page{break-after:page}}";

std::string escaped(std::string_view text) {
    std::string out;
    for (const char c : text) {
        switch (c) {
            case '&': out += "&amp;"; break;
            case '<': out += "&lt;"; break;
            case '>': out += "&gt;"; break;
            case '"': out += "&quot;"; break;
            default: out.push_back(c);
        }
    }
    return out;
}

std::string inlined(const std::vector<std::uint8_t>& bytes, const std::string& type) {
    std::string text(4 * ((bytes.size() + 2) / 3) + 1, '\0');
    const int length = EVP_EncodeBlock(reinterpret_cast<unsigned char*>(text.data()), bytes.data(),
                                       static_cast<int>(bytes.size()));
    text.resize(static_cast<std::size_t>(std::max(0, length)));
    return "data:" + type + ";base64," + text;
}

std::string waveform(const std::vector<std::int8_t>& peaks) {
    std::string lines;
    for (std::size_t i = 0; i + 1 < peaks.size(); i += 2) {
        const auto x = std::to_string(i / 2);
        lines +=
            "M" + x + " " + std::to_string(128 - peaks[i + 1]) + "V" + std::to_string(128 - peaks[i] + 1);
    }
    return "<svg viewBox=\"0 0 " + std::to_string(std::max<std::size_t>(1, peaks.size() / 2)) +
           " 256\" preserveAspectRatio=\"none\" role=\"img\" aria-label=\"waveform\"><path d=\"" + lines +
           "\" stroke=\"#7d8f3a\" fill=\"none\"/></svg>";
}

std::string figure(const Job& job, const ReportPicture& picture) {
    const auto preview = job.preview(picture.id);
    std::string text = "<figure>";
    if (!preview.picture.empty()) {
        text += "<img alt=\"\" src=\"" + inlined(preview.picture, "image/jpeg") + "\">";
    } else if (!preview.peaks.empty()) {
        text += waveform(preview.peaks);
    } else {
        text += "<svg viewBox=\"0 0 1 1\"></svg>";
    }
    text += "<figcaption><b>" + std::to_string(picture.id) + "</b>";
    const char* between = " ";
    for (const auto& line : picture.lines) {
        text += between + escaped(line);
        between = "<br>";
    }
    return text + "</figcaption></figure>\n";
}

std::string head(const Report& report) {
    const auto& shop = report.shop;
    std::string text =
        "<!doctype html><html lang=\"" + std::string(toWord(report.language)) +
        "\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width\">"
        "<meta http-equiv=\"Content-Security-Policy\" content=\"default-src 'none'; img-src data:; "
        "style-src 'unsafe-inline'\"><title>" +
        escaped(report.title) + "</title><style>" + kStyle + "</style></head><body>\n<header>";
    if (!shop.logo.empty()) text += "<img alt=\"\" src=\"" + inlined(shop.logo, shop.logoType) + "\">";
    text += "<div><h1>" + escaped(report.title) + "</h1>";
    if (!shop.name.empty()) text += "<b>" + escaped(shop.name) + "</b> ";
    return text + "<span class=\"dim\">" + escaped(shop.address) + "</span></div></header>\n";
}

std::string sectionOf(const ReportSection& section) {
    std::string text;
    if (!section.heading.empty()) text += "<h2>" + escaped(section.heading) + "</h2>";
    if (!section.rows.empty()) {
        text += "<table>";
        if (!section.columns.empty()) {
            text += "<tr><th></th>";
            for (const auto& column : section.columns) text += "<th>" + escaped(column) + "</th>";
            text += "</tr>\n";
        }
        const std::string cell = section.columns.empty() ? "<td>" : "<td class=\"n\">";
        for (const auto& row : section.rows) {
            text += "<tr>";
            for (std::size_t i = 0; i < row.size(); ++i)
                text += i == 0 ? "<th>" + escaped(row[i]) + "</th>" : cell + escaped(row[i]) + "</td>";
            text += "</tr>\n";
        }
        text += "</table>\n";
    }
    if (!section.points.empty()) {
        text += "<ul>";
        for (const auto& point : section.points) text += "<li>" + escaped(point) + "</li>";
        text += "</ul>\n";
    }
    if (!section.note.empty()) text += "<p class=\"dim\">" + escaped(section.note) + "</p>\n";
    return text;
}

}  // namespace

std::string htmlOf(const Job& job, const Report& report) {
    auto text = head(report);
    for (const auto& section : report.sections) text += sectionOf(section);
    if (!report.picturesHeading.empty()) text += "<h2>" + escaped(report.picturesHeading) + "</h2>\n";
    for (const auto& page : report.pages) {
        if (!page.heading.empty())
            text += "<h2>" + escaped(page.heading) + " <span class=\"dim\">" + escaped(page.note) +
                    "</span></h2>";
        text += "<div class=\"page\">";
        for (const auto& picture : page.pictures) text += figure(job, picture);
        text += "</div>\n";
    }
    return text + "</body></html>\n";
}

}  // namespace dreskel
