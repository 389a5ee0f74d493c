// dreskel-deliver-bench FOLDER [SMALL] [GIB]: a delivery of many small files and of a large one against cp
// and sync of the same bytes, in turns. FOLDER takes all of it.
#include <unistd.h>

#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <random>

#include "deliver/delivery.h"
#include "deliver/file_writer.h"
#include "source/card_view.h"
#include "source/source.h"

namespace {

namespace fs = std::filesystem;
using namespace dreskel;

double secondsOf(const std::function<void()>& work) {
    const auto begun = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
}

void shell(const std::string& line) {
    if (std::system(line.c_str()) != 0) std::fprintf(stderr, "failed: %s\n", line.c_str());
}

Finding fileOf(std::int64_t id, ByteRange range) {
    Finding finding;
    finding.id = id;
    finding.kind = Kind::Photo;
    finding.format = "jpeg";
    finding.condition = Condition::Whole;
    finding.name = "MILL" + std::to_string(id) + ".JPG";
    finding.pieces = {{PieceFrom::Card, range.offset, range.length, {}}};
    finding.evidence.range = range;
    return finding;
}

// The same files apart, for cp.
void writeApart(const Source& source, const std::vector<Finding>& files, const fs::path& folder) {
    fs::create_directories(folder);
    std::vector<std::uint8_t> buffer(1 << 20);
    for (const auto& file : files) {
        std::ofstream out(folder / file.name, std::ios::binary);
        const auto range = file.pieces[0].onCard();
        if (range.length > std::uint64_t{1} << 30) {
            out.close();
            fs::resize_file(folder / file.name, range.length);
            continue;
        }
        for (std::uint64_t at = 0; at < range.length;) {
            const auto part = std::min<std::uint64_t>(buffer.size(), range.length - at);
            const auto got =
                source.read(range.offset + at, MutableBytes(buffer).first(static_cast<std::size_t>(part)))
                    .count;
            out.write(reinterpret_cast<const char*>(buffer.data()), static_cast<std::streamsize>(got));
            at += got;
        }
    }
}

// A delivery's own writing and flushing, without its verification.
void writeOnly(const std::shared_ptr<Source>& source, const std::vector<Finding>& files,
               const fs::path& folder) {
    fs::create_directories(folder);
    CardView card(source);
    Control control;
    const bool together = flushesAtOnce(folder.string());
    for (const auto& file : files) {
        PieceReader bytes(card, file.pieces);
        const auto written =
            writeTemporary(bytes, (folder / file.name).string(), control, [](std::uint64_t) {});
        if (!written || (!together && !flushTemporary(written.value())))
            std::fprintf(stderr, "not written\n");
    }
    if (together && !flushAll(folder.string())) std::fprintf(stderr, "not flushed\n");
}

void compare(const char* what, const std::shared_ptr<Source>& source, const std::vector<Finding>& files,
             const fs::path& folder) {
    auto job = Job::open((folder / "job").string(), Job::Access::Write);
    if (!job) return;
    (void)job.value()->setSource({source->path(), source->size(), 512, {}, {}});
    const auto apart = folder / "apart";
    writeApart(*source, files, apart);
    std::uint64_t bytes = 0;
    for (const auto& file : files) bytes += file.size();
    for (int round = 0; round < 3; ++round) {
        shell("sync; echo 3 > /proc/sys/vm/drop_caches");
        const auto copied = secondsOf([&] {
            shell("cp -r --sparse=never '" + apart.string() + "' '" + (folder / "copied").string() +
                  "' && sync -f '" + folder.string() + "'");
        });
        fs::remove_all(folder / "copied");
        shell("sync; echo 3 > /proc/sys/vm/drop_caches");
        const auto written = secondsOf([&] { writeOnly(source, files, folder / "written"); });
        fs::remove_all(folder / "written");
        shell("sync; echo 3 > /proc/sys/vm/drop_caches");
        Control control;
        std::size_t verified = 0;
        const auto saved = secondsOf([&] {
            const DeliveryRequest request{(folder / "saved").string(), Layout::Flat, files};
            const auto sum = deliver(*job.value(), source, request, control, [](const DeliveryProgress&) {});
            if (sum) verified = sum.value().verified;
        });
        shell("sync; echo 3 > /proc/sys/vm/drop_caches");
        const auto readBack =
            secondsOf([&] { shell("cat '" + (folder / "saved").string() + "'/* > /dev/null"); });
        fs::remove_all(folder / "saved");
        std::printf(
            "%s, %s: cp and sync %.1f s; written and flushed %.1f s (%.2f of its speed); saved, "
            "read back and compared %.1f s (%zu verified); reading back alone %.1f s\n",
            what, humanSize(bytes).c_str(), copied, written, copied / written, saved, verified, readBack);
        std::fflush(stdout);
    }
    fs::remove_all(apart);
    fs::remove_all(folder / "job");
}

}  // namespace

int main(int argc, char** argv) {
    if (argc < 2) {
        std::fprintf(stderr, "usage: dreskel-deliver-bench FOLDER [SMALL] [GIB]\n");
        return 2;
    }
    const fs::path folder = fs::absolute(argv[1]);
    const auto count = argc > 2 ? std::atoi(argv[2]) : 10000;
    const auto gib = static_cast<std::uint64_t>(argc > 3 ? std::atoi(argv[3]) : 20);
    fs::create_directories(folder);
    const auto image = (folder / "card.img").string();
    constexpr std::uint64_t kSmall = 96 * 1024;
    {
        std::mt19937_64 random(7);
        std::ofstream out(image, std::ios::binary);
        std::vector<std::uint64_t> words(kSmall / 8);
        for (int i = 0; i < count; ++i) {
            for (auto& word : words) word = random();
            out.write(reinterpret_cast<const char*>(words.data()), static_cast<std::streamsize>(kSmall));
        }
    }
    const auto front = static_cast<std::uint64_t>(count) * kSmall;
    fs::resize_file(image, front + (gib << 30));
    const auto source = openSource(image);
    if (!source) return 1;
    std::vector<Finding> small;
    for (int i = 0; i < count; ++i)
        small.push_back(fileOf(i + 1, {static_cast<std::uint64_t>(i) * kSmall, kSmall}));
    compare("small files", source.value(), small, folder);
    compare("one large file", source.value(), {fileOf(1, {front, gib << 30})}, folder);
    fs::remove(image);
    return 0;
}
