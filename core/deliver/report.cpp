#include "deliver/report.h"
#include "deliver/told.h"

#include <algorithm>
#include <array>
#include <cstdio>
#include <ctime>
#include <map>
#include <set>

namespace dreskel {
namespace {

constexpr std::size_t kPagesAPart = 100;

class Writer {
  public:
    Writer(const Job& job, const Shop& shop) : job_(job), shop_(shop), say_(phrasesIn(shop.language)) {}

    enum class Card { InFull, InShort };
    Report begun(const std::string& title, Card card) const {
        Report report;
        report.language = shop_.language;
        report.title = title;
        report.shop = shop_;
        report.sections.push_back(this->card(card));
        return report;
    }
    const Phrases& say() const { return say_; }
    ReportSection found() const;
    ReportSection askedOf(const DeliverySum& sum) const;
    ReportSection delivered(const DeliverySum& sum) const;
    ReportSection notSaved(const DeliverySum& sum) const;
    ReportSection versions(const DeliverySum& sum) const;
    ReportSection notWhole(const DeliverySum& sum) const;
    ReportPicture picture(const Finding& finding, const std::string& more) const;

  private:
    ReportSection card(Card card) const;
    std::string dateOf(const std::string& taken) const;
    std::string today() const;
    std::string nameOf(const Finding& finding) const {
        if (!finding.name.empty()) return finding.name;
        return finding.description.taken.empty() ? say_.undated : dateOf(finding.description.taken);
    }
    std::string numbered(const Finding& finding) const {
        return std::to_string(finding.id) + " " + nameOf(finding);
    }
    std::string conditionOf(const Finding& finding) const;
    const char* kindOf(Kind kind) const;

    const Job& job_;
    const Shop& shop_;
    const Phrases& say_;
};

// "2026-05-02T07:45:46Z" as a person writes it: 2 May 2026, 07:45.
std::string Writer::dateOf(const std::string& taken) const {
    std::tm parts{};
    if (taken.size() < 16 || strptime(taken.c_str(), "%Y-%m-%dT%H:%M", &parts) == nullptr) return taken;
    return filled(say_.dateForm,
                  {std::to_string(parts.tm_mday), say_.months[static_cast<std::size_t>(parts.tm_mon) % 12],
                   std::to_string(parts.tm_year + 1900), taken.substr(11, 5)});
}

std::string Writer::today() const {
    const auto now = std::time(nullptr);
    std::tm parts{};
    localtime_r(&now, &parts);
    std::array<char, 32> text{};
    const auto length = std::strftime(text.data(), text.size(), "%Y-%m-%dT%H:%M", &parts);
    return dateOf({text.data(), length});
}

std::string Writer::conditionOf(const Finding& finding) const {
    switch (finding.condition) {
        case Condition::Whole: return say_.whole;
        case Condition::Partial:
            return filled(say_.partialBy, {std::to_string(static_cast<int>(finding.decoded * 100))});
        case Condition::Broken: return say_.broken;
        case Condition::Unchecked: break;
    }
    return say_.unchecked;
}

const char* Writer::kindOf(Kind kind) const {
    switch (kind) {
        case Kind::Photo: return say_.photos;
        case Kind::Video: return say_.clips;
        case Kind::Audio: return say_.recordings;
        case Kind::Sidecar: return say_.sidecars;
        case Kind::Other: break;
    }
    return say_.otherFiles;
}

ReportSection Writer::card(Card card) const {
    ReportSection section;
    const auto facts = job_.source();
    if (facts) {
        const auto& path = facts->copyOf.empty() ? facts->path : facts->copyOf;
        const auto name = path.substr(path.rfind('/') + 1);
        section.rows.push_back({say_.card, facts->copyOf.empty() ? name : filled(say_.copiedFirst, {name})});
        if (card == Card::InFull && !facts->serial.empty())
            section.rows.push_back({say_.serial, facts->serial});
        if (card == Card::InFull) section.rows.push_back({say_.size, humanSize(facts->size)});
    }
    std::uint64_t unreadable = 0;
    for (const auto& range : job_.unreadable()) unreadable += range.length;
    if (card == Card::InFull)
        section.rows.push_back({say_.unread, unreadable == 0 ? say_.nothingUnread : humanSize(unreadable)});
    section.rows.push_back({say_.date, today()});
    return section;
}

ReportSection Writer::found() const {
    std::map<Kind, std::map<Condition, std::size_t>> counts;
    for (const auto& file : job_.findings()) {
        if (file.listed()) ++counts[file.kind][file.condition];
    }
    ReportSection section{
        say_.found, say_.conditionsMean, {say_.whole, say_.partial, say_.broken, say_.unchecked}, {}, {}};
    for (auto& [kind, byCondition] : counts) {
        std::vector<std::string> row{kindOf(kind)};
        for (const auto condition :
             {Condition::Whole, Condition::Partial, Condition::Broken, Condition::Unchecked})
            row.push_back(std::to_string(byCondition[condition]));
        section.rows.push_back(std::move(row));
    }
    return section;
}

// Against what was delivered: what was found and left behind does not answer the client.
ReportSection Writer::askedOf(const DeliverySum& sum) const {
    std::set<std::int64_t> delivered;
    for (const auto& item : sum.items) {
        if (item.whyNot.empty()) delivered.insert(item.finding.id);
    }
    ReportSection section{say_.youAskedFor, {}, {}, {}, {}};
    for (const auto& wish : job_.wishes()) {
        std::string numbers;
        for (const auto id : wish.files) {
            if (delivered.contains(id)) numbers += (numbers.empty() ? "" : ", ") + std::to_string(id);
        }
        section.rows.push_back({wish.text, !wish.met         ? say_.notFound
                                           : numbers.empty() ? say_.foundPlain
                                                             : filled(say_.foundAs, {numbers})});
    }
    return section;
}

ReportSection Writer::delivered(const DeliverySum& sum) const {
    return {say_.delivered,
            {},
            {},
            {{say_.askedFor, std::to_string(sum.items.size())},
             {say_.saved, std::to_string(sum.saved) + ", " + humanSize(sum.bytes)},
             {say_.readBack, std::to_string(sum.verified)},
             {say_.notSaved, std::to_string(sum.notSaved)}},
            {}};
}

ReportSection Writer::notSaved(const DeliverySum& sum) const {
    ReportSection section{say_.notSavedAndWhy, {}, {}, {}, {}};
    for (const auto& item : sum.items) {
        if (!item.whyNot.empty())
            section.rows.push_back({numbered(item.finding), told(item.whyNot, shop_.language)});
    }
    return section;
}

ReportSection Writer::versions(const DeliverySum& sum) const {
    ReportSection section{say_.versions, say_.versionsMean, {}, {}, {}};
    for (const auto& item : sum.items) {
        if (!item.version.savedAs.empty())
            section.rows.push_back({item.version.savedAs, told(item.version.made, shop_.language)});
    }
    return section;
}

ReportSection Writer::notWhole(const DeliverySum& sum) const {
    ReportSection section{say_.notWhole, {}, {}, {}, {}};
    for (const auto& item : sum.items) {
        const auto& finding = item.finding;
        if (finding.condition == Condition::Whole) continue;
        section.rows.push_back(
            {numbered(finding),
             conditionOf(finding) + (finding.why.empty() ? "" : ": " + told(finding.why, shop_.language))});
    }
    return section;
}

ReportPicture Writer::picture(const Finding& finding, const std::string& more) const {
    ReportPicture picture{finding.id, {nameOf(finding), conditionOf(finding)}};
    if (!finding.name.empty() && !finding.description.taken.empty())
        picture.lines.push_back(dateOf(finding.description.taken));
    if (!more.empty()) picture.lines.push_back(more);
    return picture;
}

}  // namespace

Report deliveryReport(const Job& job, const DeliverySum& sum, const Shop& shop) {
    const Writer writer(job, shop);
    auto report = writer.begun(writer.say().filesFromACard, Writer::Card::InFull);
    for (auto& section : {writer.found(), writer.askedOf(sum), writer.delivered(sum), writer.notSaved(sum),
                          writer.versions(sum), writer.notWhole(sum),
                          ReportSection{writer.say().nextCard, {}, {}, {}, shop.advice}}) {
        if (!section.rows.empty() || !section.points.empty()) report.sections.push_back(section);
    }
    report.picturesHeading = writer.say().eachFile;
    for (std::size_t i = 0; i < sum.items.size(); ++i) {
        if (i % kPicturesAPage == 0) report.pages.emplace_back();
        report.pages.back().pictures.push_back(writer.picture(sum.items[i].finding, sum.items[i].savedAs));
    }
    return report;
}

std::vector<Report> contactPages(const Job& job, const Shop& shop) {
    const Writer writer(job, shop);
    auto files = job.findings();
    std::erase_if(files, [](const Finding& file) { return !file.listed(); });
    std::vector<Report> parts;
    for (std::size_t i = 0; i < files.size() || parts.empty(); ++i) {
        const auto page = i / kPicturesAPage;
        if (i % (kPicturesAPage * kPagesAPart) == 0)
            parts.push_back(writer.begun(writer.say().toChooseFrom, Writer::Card::InShort));
        if (files.empty()) break;
        auto& pages = parts.back().pages;
        if (i % kPicturesAPage == 0) {
            const auto last = std::min(files.size(), i + kPicturesAPage) - 1;
            pages.push_back(
                {filled(writer.say().page, {std::to_string(page + 1)}),
                 filled(writer.say().numbers, {std::to_string(files[i].id), std::to_string(files[last].id)}),
                 {}});
        }
        pages.back().pictures.push_back(writer.picture(files[i], {}));
    }
    return parts;
}

}  // namespace dreskel
