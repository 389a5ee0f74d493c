#include "deliver/report.h"

#include <openssl/evp.h>

#include <algorithm>
#include <array>
#include <ctime>
#include <map>
#include <set>

namespace dreskel {
namespace {

constexpr std::size_t kOnAPage = 20;

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

// "2026-05-02T07:45:46Z" as a person writes it: 2 May 2026, 07:45.
std::string dateOf(const std::string& taken) {
    std::tm parts{};
    if (taken.size() < 16 || strptime(taken.c_str(), "%Y-%m-%dT%H:%M", &parts) == nullptr) return taken;
    std::array<char, 40> text{};
    const auto length = std::strftime(text.data(), text.size(), "%e %B %Y, %H:%M", &parts);
    const std::string date(text.data(), length);
    return date.substr(date.find_first_not_of(' '));
}

std::string today() {
    const auto now = std::time(nullptr);
    std::tm parts{};
    localtime_r(&now, &parts);
    std::array<char, 32> text{};
    const auto length = std::strftime(text.data(), text.size(), "%Y-%m-%dT%H:%M", &parts);
    return dateOf({text.data(), length});
}

std::string nameOf(const Finding& finding) {
    if (!finding.name.empty()) return finding.name;
    return finding.description.taken.empty() ? "undated" : dateOf(finding.description.taken);
}

std::string kindOf(Kind kind) {
    switch (kind) {
        case Kind::Photo: return "photos";
        case Kind::Video: return "clips";
        case Kind::Audio: return "recordings";
        case Kind::Sidecar: return "sidecars";
        case Kind::Other: break;
    }
    return "other files";
}

std::string conditionOf(const Finding& finding) {
    if (finding.condition != Condition::Partial) return std::string(toWord(finding.condition));
    return "partial, " + std::to_string(static_cast<int>(finding.decoded * 100)) + " %";
}

std::string figure(const Job& job, const Finding& finding, const std::string& more) {
    const auto preview = job.preview(finding.id);
    std::string text = "<figure>";
    if (!preview.picture.empty()) {
        text += "<img alt=\"\" src=\"" + inlined(preview.picture, "image/jpeg") + "\">";
    } else if (!preview.peaks.empty()) {
        text += waveform(preview.peaks);
    } else {
        text += "<svg viewBox=\"0 0 1 1\" role=\"img\" aria-label=\"no picture\"></svg>";
    }
    text += "<figcaption><b>" + std::to_string(finding.id) + "</b> " + escaped(nameOf(finding)) + "<br>" +
            escaped(conditionOf(finding));
    if (!finding.name.empty() && !finding.description.taken.empty())
        text += "<br>" + escaped(dateOf(finding.description.taken));
    return text + (more.empty() ? "" : "<br>" + escaped(more)) + "</figcaption></figure>\n";
}

std::string head(const std::string& title, const Shop& shop) {
    std::string text =
        "<!doctype html><html lang=\"en\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" "
        "content=\"width=device-width\"><meta http-equiv=\"Content-Security-Policy\" content=\"default-src "
        "'none'; "
        "img-src data:; style-src 'unsafe-inline'\"><title>" +
        escaped(title) + "</title><style>" + kStyle + "</style></head><body>\n<header>";
    if (!shop.logo.empty()) text += "<img alt=\"\" src=\"" + inlined(shop.logo, shop.logoType) + "\">";
    text += "<div><h1>" + escaped(title) + "</h1>";
    if (!shop.name.empty()) text += "<b>" + escaped(shop.name) + "</b> ";
    return text + "<span class=\"dim\">" + escaped(shop.address) + "</span></div></header>\n";
}

void row(std::string& text, const std::string& name, const std::string& value) {
    text += "<tr><th>" + escaped(name) + "</th><td>" + escaped(value) + "</td></tr>\n";
}

std::string cardTable(const Job& job) {
    std::string text = "<table>";
    const auto facts = job.source();
    if (facts) {
        const auto& path = facts->copyOf.empty() ? facts->path : facts->copyOf;
        row(text, "Card", path.substr(path.rfind('/') + 1) + (facts->copyOf.empty() ? "" : ", copied first"));
        if (!facts->serial.empty()) row(text, "Serial number", facts->serial);
        row(text, "Size", humanSize(facts->size));
    }
    std::uint64_t unreadable = 0;
    for (const auto& range : job.unreadable()) unreadable += range.length;
    row(text, "Could not be read", unreadable == 0 ? "nothing: all of it was read" : humanSize(unreadable));
    row(text, "Date of this report", today());
    return text + "</table>\n";
}

std::string foundTable(const std::vector<Finding>& files) {
    std::map<Kind, std::map<Condition, std::size_t>> counts;
    for (const auto& file : files) {
        if (file.listed()) ++counts[file.kind][file.condition];
    }
    std::string text =
        "<h2>Found</h2><table><tr><th></th><th>whole</th><th>partial</th><th>broken</th><th>unchecked</th></"
        "tr>\n";
    for (const auto& [kind, byCondition] : counts) {
        text += "<tr><th>" + kindOf(kind) + "</th>";
        for (const auto condition :
             {Condition::Whole, Condition::Partial, Condition::Broken, Condition::Unchecked}) {
            const auto found = byCondition.find(condition);
            text +=
                "<td class=\"n\">" + std::to_string(found == byCondition.end() ? 0 : found->second) + "</td>";
        }
        text += "</tr>\n";
    }
    return text +
           "</table><p class=\"dim\">Whole: every byte was decoded without an error. Partial: a part of it "
           "is there. "
           "Broken: nothing of it decodes.</p>\n";
}

// Against what was delivered: what was found and left behind does not answer the client.
std::string askedOf(const Job& job, const DeliverySum& sum) {
    const auto wishes = job.wishes();
    if (wishes.empty()) return {};
    std::set<std::int64_t> delivered;
    for (const auto& item : sum.items) {
        if (item.whyNot.empty()) delivered.insert(item.finding.id);
    }
    std::string text = "<h2>You asked for</h2><table>";
    for (const auto& wish : wishes) {
        std::string answer;
        for (const auto id : wish.files) {
            if (delivered.contains(id)) answer += (answer.empty() ? "numbers " : ", ") + std::to_string(id);
        }
        row(text, wish.text, !wish.met ? "not found" : answer.empty() ? "found" : "found: " + answer);
    }
    return text + "</table>\n";
}

std::string adviceOf(const Shop& shop) {
    if (shop.advice.empty()) return {};
    std::string text = "<h2>For the next card</h2><ul>";
    for (const auto& line : shop.advice) text += "<li>" + escaped(line) + "</li>";
    return text + "</ul>\n";
}

std::vector<Finding> listedOf(const Job& job) {
    auto files = job.findings();
    std::erase_if(files, [](const Finding& file) { return !file.listed(); });
    return files;
}

}  // namespace

std::string reportOf(const Job& job, const DeliverySum& sum, const Shop& shop) {
    auto text = head("Files from a memory card", shop) + cardTable(job) + foundTable(job.findings());
    text += askedOf(job, sum);
    text += "<h2>Delivered</h2><table>";
    row(text, "Asked for", std::to_string(sum.items.size()));
    row(text, "Saved", std::to_string(sum.saved) + ", " + humanSize(sum.bytes));
    row(text, "Read back and found the same", std::to_string(sum.verified));
    row(text, "Not saved", std::to_string(sum.notSaved));
    text += "</table>\n";
    if (sum.notSaved > 0) {
        text += "<h2>Not saved, and why</h2><table>";
        for (const auto& item : sum.items) {
            if (!item.whyNot.empty())
                row(text, std::to_string(item.finding.id) + " " + nameOf(item.finding), item.whyNot);
        }
        text += "</table>\n";
    }
    if (sum.versions > 0) {
        text +=
            "<h2>Versions that open</h2><p class=\"dim\">Beside files of which a part is lost; made from "
            "what "
            "is left.</p><table>";
        for (const auto& item : sum.items) {
            if (!item.version.savedAs.empty()) row(text, item.version.savedAs, item.version.made);
        }
        text += "</table>\n";
    }
    std::string notWhole;
    for (const auto& item : sum.items) {
        if (item.finding.condition != Condition::Whole)
            row(notWhole, std::to_string(item.finding.id) + " " + nameOf(item.finding),
                conditionOf(item.finding) + (item.finding.why.empty() ? "" : ": " + item.finding.why));
    }
    if (!notWhole.empty()) text += "<h2>Not whole</h2><table>" + notWhole + "</table>\n";
    text += adviceOf(shop);
    text += "<h2>Each file</h2>\n<div class=\"page\">";
    for (std::size_t i = 0; i < sum.items.size(); ++i) {
        if (i > 0 && i % kOnAPage == 0) text += "</div>\n<div class=\"page\">";
        text += figure(job, sum.items[i].finding, sum.items[i].savedAs);
    }
    return text + "</div></body></html>\n";
}

std::string contactPagesOf(const Job& job, const Shop& shop) {
    auto text = head("Pictures to choose from", shop) + cardTable(job);
    const auto files = listedOf(job);
    for (std::size_t i = 0; i < files.size(); ++i) {
        if (i % kOnAPage == 0) {
            const auto page = std::to_string(i / kOnAPage + 1);
            const auto last = files[std::min(files.size(), i + kOnAPage) - 1].id;
            text += std::string(i > 0 ? "</div>\n" : "") + "<h2>Page " + page +
                    " <span class=\"dim\">numbers " + std::to_string(files[i].id) + " to " +
                    std::to_string(last) + "</span></h2><div class=\"page\">";
        }
        text += figure(job, files[i], {});
    }
    return text + (files.empty() ? "" : "</div>") + "</body></html>\n";
}

}  // namespace dreskel
