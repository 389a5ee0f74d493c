#include "demo/demo_card.h"

#include <openssl/evp.h>

#include <array>
#include <atomic>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <thread>

#include "base/json_text.h"
#include "demo/encode_clip.h"
#include "demo/encode_photo.h"
#include "demo/fat_card.h"

namespace dreskel::demo {

std::string readerPathFor(const std::string& image) {
    const auto dot = image.rfind(".img");
    return (dot == std::string::npos ? image : image.substr(0, dot)) + ".reader.json";
}

namespace {

constexpr std::uint64_t kCardSize = 320ULL << 20;
constexpr std::uint64_t kFailingCardSize = 288ULL << 20;
constexpr std::time_t kFirstMorning = 1777707600;  // 2026-05-02 07:40:00

struct Planned {
    std::string name, folder, format;
    std::time_t taken = 0;
    int runs = 1;
    std::uint32_t gap = 0;
    bool inTurns = false;  // gaps as large as its stretches, for the file that was written meanwhile
    std::function<std::vector<std::uint8_t>()> make;
    std::vector<std::uint8_t> bytes;
    std::vector<ByteRange> places;
    bool later = false;  // shot after the card was formatted
};

std::string timeText(std::time_t when, const char* format) {
    std::tm parts{};
    gmtime_r(&when, &parts);
    std::array<char, 40> text{};
    std::strftime(text.data(), text.size(), format, &parts);
    return text.data();
}

std::string numbered(const char* pattern, int number) {
    std::array<char, 32> text{};
    std::snprintf(text.data(), text.size(), pattern, number);
    return text.data();
}

float hourOf(std::time_t when) {
    return static_cast<float>(when % 86400) / 3600.0F;
}

Planned photo(int number, std::time_t when, bool compact) {
    Planned planned;
    planned.name = numbered("MILL%04d.JPG", number);
    planned.folder = compact ? "DCIM/101HALDN" : "DCIM/100MILLS";
    planned.format = "jpeg";
    planned.taken = when;
    planned.make = [number, when, compact] {
        constexpr std::array<Subject, 7> subjects{Subject::Mill,    Subject::Wheel,  Subject::Mill,
                                                  Subject::Masonry, Subject::Sluice, Subject::Estuary,
                                                  Subject::Mill};
        View view;
        view.subject = subjects[static_cast<std::size_t>(number) % subjects.size()];
        view.seed = static_cast<std::uint32_t>(number) * 8 + 3;
        view.hour = hourOf(when);
        view.overcast = 0.15F + 0.12F * static_cast<float>(number * 5 % 7);
        view.shift = 0.05F * static_cast<float>(number % 5 - 2);
        view.zoom = 1.0F + 0.18F * static_cast<float>(number % 4);
        const bool tall = view.subject == Subject::Masonry && number % 2 == 1;
        const int orientation = tall ? 6 : 1;
        const auto taken = timeText(when, "%Y:%m:%d %H:%M:%S");
        if (compact) {
            const Camera camera{"Halden", "Halden F1", 88, 2, 2, number % 2 == 0 ? 1 : 0};
            return encodePhoto(draw(view, 2000, 1500, 0, 5), camera, taken, orientation);
        }
        const Camera camera{"Orrery", "Orrery K2", 92, 2, 1, 0};
        return encodePhoto(draw(view, 3000, 2000, 0, 4), camera, taken, orientation);
    };
    return planned;
}

Planned clip(int number, std::time_t when, bool quickTime) {
    Planned planned;
    planned.name = numbered("MILL%04d.", number) + (quickTime ? "MOV" : "MP4");
    planned.folder = quickTime ? "DCIM/100MILLS" : "DCIM/101HALDN";
    planned.format = quickTime ? "mov" : "mp4";
    planned.taken = when;
    planned.make = [number, when, quickTime] {
        constexpr std::array<Subject, 4> subjects{Subject::Mill, Subject::Wheel, Subject::Estuary,
                                                  Subject::Sluice};
        ClipPlan plan;
        plan.view.subject = subjects[static_cast<std::size_t>(number) % subjects.size()];
        // Close-ups are drawn anew for each frame, and smaller for that.
        const bool close = plan.view.subject == Subject::Wheel || plan.view.subject == Subject::Sluice;
        plan.width = close ? 640 : 960;
        plan.height = close ? 360 : 540;
        plan.view.seed = static_cast<std::uint32_t>(number) * 8 + 5;
        plan.view.hour = hourOf(when);
        plan.view.overcast = 0.35F;
        plan.seconds = 4 + number % 3;
        plan.quickTime = quickTime;
        plan.bFrames = number % 2 == 0 ? 2 : 0;
        plan.make = quickTime ? "Orrery" : "Halden";
        plan.model = quickTime ? "Orrery K2" : "Halden F1";
        plan.taken = when;
        return encodeClip(plan);
    };
    return planned;
}

// What two lenses of one camera record at the same time, in turns.
void addTwins(std::vector<Planned>& all, int number, std::time_t when) {
    for (int lens = 0; lens < 2; ++lens) {
        auto twin = clip(number + lens, when, false);
        twin.make = [number, when, lens] {
            ClipPlan plan;
            plan.view.subject = lens == 0 ? Subject::Mill : Subject::Estuary;
            plan.width = 960;
            plan.height = 540;
            plan.view.seed = static_cast<std::uint32_t>(number + lens) * 8 + 5;
            plan.view.hour = hourOf(when);
            plan.view.overcast = 0.2F;
            plan.seconds = 6;
            plan.make = "Halden";
            plan.model = "Halden F1";
            plan.taken = when;
            return encodeClip(plan);
        };
        twin.runs = lens == 0 ? 12 : 1;
        twin.inTurns = lens == 0;
        all.push_back(std::move(twin));
    }
}

Planned note(int number, std::time_t when) {
    Planned planned;
    planned.name = numbered("NOTE%04d.WAV", number);
    planned.folder = "NOTES";
    planned.format = "wav";
    planned.taken = when;
    planned.make = [number, when] {
        return encodeNote({static_cast<std::uint32_t>(number), 12.0 + number * 7 % 23, "Pellow R2",
                           timeText(when, "%Y-%m-%d"), timeText(when, "%H:%M:%S")});
    };
    return planned;
}

// Three visits to the site before the format, one after it.
std::vector<Planned> planShoots() {
    std::vector<Planned> all;
    int number = 1;
    const auto visit = [&](std::time_t start, int photos, int clips, int notes, bool compact) {
        for (int i = 0; i < photos; ++i) {
            const auto when = start + i * 173;
            all.push_back(photo(number++, when, compact));
            if (clips > 0 && i % 4 == 2) {
                --clips;
                all.push_back(clip(number++, when + 60, !compact));
            }
            if (notes > 0 && i % 3 == 1) {
                --notes;
                all.push_back(note(number++, when + 95));
            }
        }
    };
    visit(kFirstMorning, 16, 3, 4, false);
    visit(kFirstMorning + 3 * 86400 + 9 * 3600, 12, 3, 3, true);
    const auto lastVisit = kFirstMorning + 5 * 86400 + 4 * 3600;
    visit(lastVisit, 12, 2, 3, false);
    addTwins(all, number, lastVisit + 3600);
    return all;
}

std::vector<Planned> planLater() {
    std::vector<Planned> all;
    const auto start = kFirstMorning + 12 * 86400 + 2 * 3600;
    for (int i = 0; i < 3; ++i) all.push_back(photo(901 + i, start + i * 240, false));
    all.push_back(note(904, start + 900));
    for (auto& planned : all) planned.later = true;
    return all;
}

// One more morning, on a card whose reader fails.
std::vector<Planned> planFailing() {
    std::vector<Planned> all;
    const auto start = kFirstMorning + 19 * 86400;
    int number = 41;
    for (int i = 0; i < 14; ++i) {
        const auto when = start + i * 211;
        all.push_back(photo(number++, when, i >= 9));
        if (i == 3 || i == 10) all.push_back(clip(number++, when + 70, i == 3));
        if (i % 5 == 2) all.push_back(note(number++, when + 120));
    }
    for (auto& planned : all) planned.later = true;
    return all;
}

// Bad places where the files lie: most fail always, some come at the second or third try, one stalls.
Status writeReader(const std::string& path, const std::vector<Planned>& files) {
    auto faults = nlohmann::ordered_json::array();
    for (std::size_t i = 1; i < files.size(); ++i) {
        const auto& place = files[i].places.front();
        const auto at = (place.offset + place.length / 20 * (3 + i * 7 % 15)) / 512 * 512;
        nlohmann::ordered_json fault{{"at", at}, {"length", 512 * (1 + i % 3 * i)}, {"does", "fail"}};
        if (i % 4 == 1) fault["times"] = 2 + i % 3;
        if (i == 8) fault = {{"at", at}, {"length", 4096}, {"does", "stall"}, {"seconds", 4}};
        if (i % 2 == 1 || i == 8) faults.push_back(fault);
    }
    const auto image = path.substr(path.rfind('/') == std::string::npos ? 0 : path.rfind('/') + 1);
    const nlohmann::ordered_json recipe{
        {"simulated_reader", {{"image", image}, {"bytes_per_second", 30000000}, {"faults", faults}}}};
    const auto target = readerPathFor(path);
    std::ofstream out(target);
    out << jsonText(recipe, 1) << "\n";
    if (!out.flush())
        return Error{Fault::Failed, "The reader's description could not be written", target, ""};
    return Done{};
}

Status makeAll(std::vector<Planned>& files, const std::function<void(const std::string&)>& say) {
    say("Drawing photographs, clips and notes ...");
    std::atomic<std::size_t> next = 0;
    std::vector<std::thread> threads;
    for (unsigned i = 0; i < std::max(1U, std::thread::hardware_concurrency()); ++i) {
        threads.emplace_back([&] {
            for (auto at = next++; at < files.size(); at = next++) files[at].bytes = files[at].make();
        });
    }
    for (auto& thread : threads) thread.join();
    for (const auto& file : files) {
        if (file.bytes.empty())
            return Error{Fault::Failed, "An encoder is missing for " + file.format, file.name,
                         "Run scripts/install"};
    }
    say("Writing the card ...");
    return Done{};
}

// Leaves `free` clusters between files.
Status store(FatCard& volume, std::vector<Planned>& files, std::size_t from, std::size_t to,
             std::uint32_t free = 0) {
    for (auto i = from; i < to; ++i) {
        if (i > from) volume.skipClusters(free);
        const auto stretch =
            files[i].bytes.size() / FatCard::kCluster / static_cast<std::size_t>(files[i].runs) + 1;
        if (files[i].inTurns) files[i].gap = static_cast<std::uint32_t>(stretch);
        auto places = volume.add(files[i].folder, files[i].name, files[i].bytes, files[i].taken,
                                 files[i].runs, files[i].gap);
        if (!places) return places.error();
        files[i].places = places.value();
    }
    return volume.finish();
}

std::string sha256Of(const std::vector<std::uint8_t>& bytes) {
    std::array<unsigned char, EVP_MAX_MD_SIZE> digest{};
    unsigned length = 0;
    EVP_Digest(bytes.data(), bytes.size(), digest.data(), &length, EVP_sha256(), nullptr);
    std::string text;
    for (unsigned i = 0; i < length; ++i) text += numbered("%02x", digest[i]);
    return text;
}

std::string fateOf(const Planned& file, const RangeSet& overwritten) {
    if (file.later) return "present";
    std::uint64_t lost = 0;
    for (const auto& place : file.places) {
        for (const auto& hit : overwritten.within(place)) lost += hit.length;
    }
    if (lost >= file.bytes.size()) return "overwritten";
    if (lost > 0) return "partly overwritten";
    return file.places.size() > 1 ? "in pieces" : "intact";
}

Status writeTruth(const std::string& path, const std::string& name, const std::vector<Planned>& files,
                  const RangeSet& overwritten) {
    nlohmann::ordered_json truth{{"card", name}, {"files", nlohmann::ordered_json::array()}};
    for (const auto& file : files) {
        auto pieces = nlohmann::ordered_json::array();
        for (const auto& place : file.places) pieces.push_back({place.offset, place.length});
        truth["files"].push_back({{"name", file.name},
                                  {"folder", file.folder},
                                  {"format", file.format},
                                  {"size", file.bytes.size()},
                                  {"sha256", sha256Of(file.bytes)},
                                  {"taken", timeText(file.taken, "%Y-%m-%dT%H:%M:%S")},
                                  {"fate", fateOf(file, overwritten)},
                                  {"pieces", pieces}});
    }
    std::ofstream out(path + ".truth.json");
    out << jsonText(truth, 1) << "\n";
    if (!out.flush()) return Error{Fault::Failed, "The truth could not be written", path + ".truth.json", ""};
    return Done{};
}

}  // namespace

Status writeDemoCard(const std::string& path, const std::function<void(const std::string&)>& say) {
    // Said before the work of a minute is done, not after it.
    if (std::error_code unknown; std::filesystem::exists(path, unknown))
        return Error{Fault::Failed, "The image could not be created: there is a file already", path,
                     "Choose a name that is not taken yet"};
    auto files = planShoots();
    auto later = planLater();
    const auto earlier = files.size();
    for (auto& planned : later) files.push_back(std::move(planned));
    // A few were written into what an earlier clearing-up had left free.
    for (const auto index : {21U, 33U, 47U}) {
        files[index].runs = index == 33U ? 3 : 2;
        files[index].gap = 700;
    }
    auto made = makeAll(files, say);
    if (!made) return made;
    auto card = FatCard::create(path, kCardSize);
    if (!card) return card.error();
    auto& volume = card.value();
    RangeSet overwritten;
    if (auto done = volume.format(0x20260502, "MILL-07"); !done) return done;
    if (auto done = store(volume, files, 0, earlier); !done) return done;
    if (auto done = volume.format(0x20260514, "MILL-07"); !done) return done;
    if (auto done = store(volume, files, earlier, files.size()); !done) return done;
    for (auto i = earlier; i < files.size(); ++i) {
        for (const auto& place : files[i].places) {
            // Whole clusters: what lies behind the end of a file in its last one is left as it was.
            overwritten.add(place);
        }
    }
    return writeTruth(path, "MILL-07", files, overwritten);
}

Status writeFailingCard(const std::string& path, const std::function<void(const std::string&)>& say) {
    auto files = planFailing();
    auto made = makeAll(files, say);
    if (!made) return made;
    auto card = FatCard::create(path, kFailingCardSize);
    if (!card) return card.error();
    auto& volume = card.value();
    if (auto done = volume.format(0x20260521, "MILL-09"); !done) return done;
    if (auto done = store(volume, files, 0, files.size(), 2600); !done) return done;
    if (auto done = writeTruth(path, "MILL-09", files, {}); !done) return done;
    return writeReader(path, files);
}

}  // namespace dreskel::demo
