#include "bench/many_files.h"

#include <filesystem>
#include <fstream>
#include <QBuffer>
#include <QDateTime>
#include <QImage>
#include <QPainter>
#include <random>

#include "job/job.h"

namespace dreskel::bench {
namespace {

constexpr std::uint64_t kStride = 4 << 20;

std::vector<std::uint8_t> smallPicture(int number) {
    QImage image(320, 214, QImage::Format_RGB32);
    QPainter painter(&image);
    QLinearGradient sky(0, 0, 320, 214);
    sky.setColorAt(0, QColor::fromHsv(number * 37 % 360, 120, 210));
    sky.setColorAt(1, QColor::fromHsv(number * 91 % 360, 160, 90));
    painter.fillRect(image.rect(), sky);
    for (int i = 0; i < 24; ++i) painter.drawEllipse(number * 53 % 300, i * 9, 20 + i, 14);
    painter.end();
    QBuffer bytes;
    bytes.open(QIODevice::WriteOnly);
    image.save(&bytes, "JPEG", 80);
    return {bytes.data().begin(), bytes.data().end()};
}

Finding fileAt(std::size_t number, std::mt19937& random) {
    static const char* cameras[] = {"Orrery K2", "Halden F1", "Orrery K3", "Pellow R2"};
    Finding finding;
    finding.id = static_cast<std::int64_t>(number) + 1;
    const auto roll = random() % 20;
    finding.kind = roll == 0 ? Kind::Audio : roll < 3 ? Kind::Video : Kind::Photo;
    finding.format = roll == 0 ? "wav" : roll < 3 ? "mp4" : roll < 6 ? "dng" : "jpeg";
    const auto length = 500'000 + random() % 3'000'000;
    finding.pieces = {{PieceFrom::Card, number * kStride, length, {}}};
    finding.condition = random() % 25 == 0 ? Condition::Partial : Condition::Whole;
    finding.decoded = finding.condition == Condition::Whole ? 1 : 0.63;
    finding.bySignature = true;
    if (random() % 3 == 0) {
        finding.name = "MILL" + std::to_string(number % 10000) + ".JPG";
        finding.folder = "DCIM/" + std::to_string(100 + number / 1000) + "MILLS";
        finding.byDirectory = true;
        finding.fate = Fate::FormattedOver;
    }
    auto& about = finding.description;
    const auto seconds =
        1'772'000'000 + static_cast<qint64>(number) * 31 + static_cast<qint64>(random() % 20);
    about.taken = QDateTime::fromSecsSinceEpoch(seconds, Qt::UTC)
                      .toString(QStringLiteral("yyyy-MM-ddTHH:mm:ss"))
                      .toStdString();
    about.camera = cameras[number / 700 % 4];
    about.width = 6000;
    about.height = 4000;
    if (finding.kind != Kind::Photo) about.duration = 1 + random() % 400;
    finding.decodedMap.assign(24, 255);
    finding.evidence.family = finding.format;
    finding.evidence.range = {number * kStride, length};
    finding.evidence.proven = length;
    return finding;
}

}  // namespace

bool makeManyFiles(const std::string& folder, std::size_t files) {
    const auto image = folder + ".img";
    std::ofstream(image).put('x');
    std::error_code failed;
    std::filesystem::resize_file(image, files * kStride, failed);
    const auto job = Job::open(folder, Job::Access::Write);
    if (failed || !job) return false;
    auto& into = *job.value();
    bool good = into.setSource({image, files * kStride, 512}).ok();
    ScanRecord record;
    record.state = ScanState::Finished;
    record.span = {0, files * kStride};
    record.position = files * kStride;
    record.surface.assign(files * kStride >> 20, 40);
    good = good && into.setScan(record).ok() && into.setTally({files, 0}).ok();
    std::vector<std::vector<std::uint8_t>> pictures;
    for (int i = 0; i < 40; ++i) pictures.push_back(smallPicture(i));
    std::mt19937 random(7);
    for (std::size_t i = 0; i < files && good; ++i) {
        good = into.putFinding(fileAt(i, random)).ok() &&
               into.putPreview(static_cast<std::int64_t>(i) + 1, {pictures[i % pictures.size()], {}}).ok();
    }
    return good && into.commit().ok();
}

}  // namespace dreskel::bench
