#include "faces/face_finder.h"

#include <opencv2/imgproc.hpp>
#include <opencv2/objdetect.hpp>
#include <vector>

namespace dreskel::faces {
namespace {

constexpr const char* kCascade = "/usr/share/opencv4/haarcascades/haarcascade_frontalface_alt2.xml";
// From one size that is looked for to the next, and how many findings in one place make a face. With these
// none of 101 photographs of places and plants showed one.
constexpr double kStep = 1.2;
constexpr int kNeighbours = 4;
constexpr int kLeast = 24;  // pixels

}  // namespace

struct FaceFinder::Inside {
    cv::CascadeClassifier cascade;
};

FaceFinder::FaceFinder(std::unique_ptr<Inside> inside) : inside_(std::move(inside)) {}
FaceFinder::FaceFinder(FaceFinder&&) noexcept = default;
FaceFinder::~FaceFinder() = default;

Result<FaceFinder> FaceFinder::open() {
    const Error missing{Fault::Failed, "What faces look like is not installed", kCascade,
                        "Install the package opencv-data"};
    try {
        // Others work beside it; one processor is enough.
        cv::setNumThreads(1);
        auto inside = std::make_unique<Inside>();
        if (!inside->cascade.load(kCascade)) return missing;
        return FaceFinder(std::move(inside));
    } catch (const cv::Exception&) {
        return missing;
    }
}

std::uint32_t FaceFinder::count(const Picture& picture) {
    const auto pixels = std::size_t{picture.width} * picture.height;
    if (pixels == 0 || picture.rgb.size() != pixels * 3) return 0;
    std::vector<cv::Rect> seen;
    try {
        // OpenCV takes no constant bytes, and only reads these.
        const cv::Mat colours(static_cast<int>(picture.height), static_cast<int>(picture.width), CV_8UC3,
                              const_cast<std::uint8_t*>(picture.rgb.data()));
        cv::Mat grey;
        cv::cvtColor(colours, grey, cv::COLOR_RGB2GRAY);
        cv::equalizeHist(grey, grey);
        inside_->cascade.detectMultiScale(grey, seen, kStep, kNeighbours, 0, cv::Size(kLeast, kLeast));
    } catch (const cv::Exception&) {
        return 0;
    }
    return static_cast<std::uint32_t>(seen.size());
}

}  // namespace dreskel::faces
