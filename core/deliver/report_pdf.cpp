#include "deliver/report_pdf.h"

#include <cairo-pdf.h>
#include <pango/pangocairo.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <memory>

#include "media/thumbnail.h"

namespace dreskel {
namespace {

// Points: 72 to the inch.
constexpr double kWidth = 595.3, kHeight = 841.9, kMargin = 48;
constexpr double kInner = kWidth - 2 * kMargin, kBottom = kHeight - kMargin;
constexpr std::size_t kColumns = 4;
constexpr double kGap = 12, kCell = (kInner - kGap * (kColumns - 1)) / kColumns, kPicture = 80;
// A contact page of five rows fits on a sheet, with the title above the first.
constexpr double kWords = 50, kFewWords = 38;

struct Ink {
    double red, green, blue;
};
constexpr Ink kBlack{0.14, 0.15, 0.17}, kDim{0.42, 0.43, 0.44}, kGround{0.94, 0.93, 0.91},
    kWave{0.49, 0.56, 0.23}, kRule{0.8, 0.79, 0.77};

template <auto Drop>
struct Dropper {
    template <class Held>
    void operator()(Held* held) const {
        Drop(held);
    }
};
using Surface = std::unique_ptr<cairo_surface_t, Dropper<cairo_surface_destroy>>;
using Canvas = std::unique_ptr<cairo_t, Dropper<cairo_destroy>>;
using SetText = std::unique_ptr<PangoLayout, Dropper<g_object_unref>>;
using Font = std::unique_ptr<PangoFontDescription, Dropper<pango_font_description_free>>;

cairo_status_t keep(void* into, const unsigned char* bytes, unsigned length) {
    static_cast<std::string*>(into)->append(reinterpret_cast<const char*>(bytes), length);
    return CAIRO_STATUS_SUCCESS;
}

struct PngBytes {
    Bytes left;
};
cairo_status_t readPng(void* from, unsigned char* into, unsigned length) {
    auto& bytes = static_cast<PngBytes*>(from)->left;
    if (bytes.size() < length) return CAIRO_STATUS_READ_ERROR;
    std::memcpy(into, bytes.data(), length);
    bytes = bytes.subspan(length);
    return CAIRO_STATUS_SUCCESS;
}

// A JPEG goes into the file as it is; it is decoded for its size only. Null for what is none.
Surface jpegSurface(const std::vector<std::uint8_t>& jpeg) {
    const auto picture = media::decodeThumbnail(jpeg);
    if (!picture || picture->width == 0 || picture->height == 0) return nullptr;
    Surface surface(cairo_image_surface_create(CAIRO_FORMAT_RGB24, static_cast<int>(picture->width),
                                               static_cast<int>(picture->height)));
    if (cairo_surface_status(surface.get()) != CAIRO_STATUS_SUCCESS) return nullptr;
    auto* rows = cairo_image_surface_get_data(surface.get());
    const auto stride = static_cast<std::size_t>(cairo_image_surface_get_stride(surface.get()));
    for (std::size_t y = 0; y < picture->height; ++y) {
        for (std::size_t x = 0; x < picture->width; ++x) {
            const auto* rgb = &picture->rgb[3 * (y * picture->width + x)];
            const std::uint32_t pixel =
                static_cast<std::uint32_t>(rgb[0]) << 16 | static_cast<std::uint32_t>(rgb[1]) << 8 | rgb[2];
            std::memcpy(rows + y * stride + 4 * x, &pixel, 4);
        }
    }
    cairo_surface_mark_dirty(surface.get());
    auto* copy = new std::vector<std::uint8_t>(jpeg);
    cairo_surface_set_mime_data(
        surface.get(), CAIRO_MIME_TYPE_JPEG, copy->data(), copy->size(),
        [](void* held) { delete static_cast<std::vector<std::uint8_t>*>(held); }, copy);
    return surface;
}

Surface logoSurface(const Shop& shop) {
    if (shop.logo.empty()) return nullptr;
    if (shop.logoType == "image/jpeg") return jpegSurface(shop.logo);
    PngBytes bytes{shop.logo};
    Surface surface(cairo_image_surface_create_from_png_stream(readPng, &bytes));
    return cairo_surface_status(surface.get()) == CAIRO_STATUS_SUCCESS ? std::move(surface) : nullptr;
}

// Sets type and pictures from the top of a page to its foot, and goes on with the next.
class Paper {
  public:
    explicit Paper(std::string& into)
        : surface_(cairo_pdf_surface_create_for_stream(keep, &into, kWidth, kHeight)),
          canvas_(cairo_create(surface_.get())) {}

    cairo_status_t finish() {
        foot();
        cairo_surface_finish(surface_.get());
        const auto failed = cairo_status(canvas_.get());
        return failed != CAIRO_STATUS_SUCCESS ? failed : cairo_surface_status(surface_.get());
    }
    void title(const Report& report);
    void section(const ReportSection& section);
    void heading(const std::string& text, const std::string& note, double room);
    void pictures(const Job& job, const std::vector<ReportPicture>& all, double words);
    // Pages that have a heading are numbered by it.
    void numberSheets(bool yes) { numbered_ = yes; }
    void nextPage() {
        foot();
        cairo_show_page(canvas_.get());
        y_ = kMargin;
    }
    bool atTop() const { return y_ <= kMargin; }

  private:
    struct Type {
        double size;
        bool bold = false;
        Ink ink = kBlack;
        PangoAlignment side = PANGO_ALIGN_LEFT;
        int lines = 0;  // at most; 0: as many as it takes
    };
    SetText laidOut(const std::string& text, const Type& type, double width) const;
    // Height of what was written.
    double write(const std::string& text, const Type& type, double x, double y, double width);
    void place(cairo_surface_t* picture, double x, double y, double width, double height, bool middle);
    void wave(const std::vector<std::int8_t>& peaks, double x, double y);
    void foot();
    void needs(double height) {
        if (y_ + height > kBottom && !atTop()) nextPage();
    }
    void ink(const Ink& ink) { cairo_set_source_rgb(canvas_.get(), ink.red, ink.green, ink.blue); }

    Surface surface_;
    Canvas canvas_;
    double y_ = kMargin;
    int page_ = 1;
    bool numbered_ = true;
};

SetText Paper::laidOut(const std::string& text, const Type& type, double width) const {
    SetText layout(pango_cairo_create_layout(canvas_.get()));
    const Font font(pango_font_description_from_string("Inter, DejaVu Sans, Sans"));
    pango_font_description_set_absolute_size(font.get(), type.size * PANGO_SCALE);
    pango_font_description_set_weight(font.get(), type.bold ? PANGO_WEIGHT_SEMIBOLD : PANGO_WEIGHT_NORMAL);
    pango_layout_set_font_description(layout.get(), font.get());
    pango_layout_set_width(layout.get(), static_cast<int>(width * PANGO_SCALE));
    pango_layout_set_wrap(layout.get(), PANGO_WRAP_WORD_CHAR);
    pango_layout_set_alignment(layout.get(), type.side);
    if (type.lines > 0) {
        pango_layout_set_height(layout.get(), -type.lines);
        pango_layout_set_ellipsize(layout.get(), PANGO_ELLIPSIZE_MIDDLE);
    }
    // Names come from a card: what is no UTF-8 would not be shown at all.
    const std::unique_ptr<char, Dropper<g_free>> valid(
        g_utf8_make_valid(text.data(), static_cast<gssize>(text.size())));
    pango_layout_set_text(layout.get(), valid.get(), -1);
    return layout;
}

double Paper::write(const std::string& text, const Type& type, double x, double y, double width) {
    const auto layout = laidOut(text, type, width);
    ink(type.ink);
    cairo_move_to(canvas_.get(), x, y);
    pango_cairo_show_layout(canvas_.get(), layout.get());
    int height = 0;
    pango_layout_get_size(layout.get(), nullptr, &height);
    return static_cast<double>(height) / PANGO_SCALE;
}

void Paper::foot() {
    if (!numbered_) return;
    write(std::to_string(page_++), {8, false, kDim, PANGO_ALIGN_RIGHT}, kMargin, kBottom + 14, kInner);
}

void Paper::place(cairo_surface_t* picture, double x, double y, double width, double height, bool middle) {
    const double across = cairo_image_surface_get_width(picture);
    const double down = cairo_image_surface_get_height(picture);
    if (across < 1 || down < 1) return;
    const double scale = std::min(width / across, height / down);
    cairo_save(canvas_.get());
    cairo_translate(canvas_.get(), x + (middle ? (width - across * scale) / 2 : 0),
                    y + (middle ? (height - down * scale) / 2 : 0));
    cairo_scale(canvas_.get(), scale, scale);
    cairo_set_source_surface(canvas_.get(), picture, 0, 0);
    cairo_paint(canvas_.get());
    cairo_restore(canvas_.get());
}

void Paper::wave(const std::vector<std::int8_t>& peaks, double x, double y) {
    const auto count = peaks.size() / 2;
    if (count == 0) return;
    ink(kWave);
    cairo_set_line_width(canvas_.get(), std::max(0.4, kCell / static_cast<double>(count) * 0.7));
    for (std::size_t i = 0; i < count; ++i) {
        const double at = x + (static_cast<double>(i) + 0.5) * kCell / static_cast<double>(count);
        const auto height = [&](std::int8_t peak) {
            return y + kPicture / 2 - peak * (kPicture / 2 - 4) / 128.0;
        };
        cairo_move_to(canvas_.get(), at, height(peaks[2 * i + 1]));
        cairo_line_to(canvas_.get(), at, height(peaks[2 * i]) + 0.5);
    }
    cairo_stroke(canvas_.get());
}

void Paper::title(const Report& report) {
    double x = kMargin;
    double height = 0;
    if (const auto logo = logoSurface(report.shop)) {
        constexpr double kLogo = 50;
        place(logo.get(), x, y_, kLogo * 2, kLogo, false);
        const double across = cairo_image_surface_get_width(logo.get());
        const double down = cairo_image_surface_get_height(logo.get());
        x += across * std::min(2 * kLogo / across, kLogo / down) + 16;
        height = kLogo;
    }
    double y = y_;
    y += write(report.title, {20, true}, x, y, kMargin + kInner - x);
    if (!report.shop.name.empty()) y += write(report.shop.name, {10, true}, x, y, kMargin + kInner - x);
    if (!report.shop.address.empty())
        y += write(report.shop.address, {9, false, kDim}, x, y, kMargin + kInner - x);
    y_ = std::max(y, y_ + height) + 16;
}

void Paper::heading(const std::string& text, const std::string& note, double room) {
    if (text.empty()) return;
    needs(room);
    if (!atTop()) y_ += 10;
    y_ += write(text, {12, true}, kMargin, y_, kInner);
    if (!note.empty()) y_ += write(note, {8.5, false, kDim}, kMargin, y_, kInner);
    y_ += 5;
}

void Paper::section(const ReportSection& section) {
    constexpr Type plain{9.5}, name{9.5, true}, number{9.5, false, kBlack, PANGO_ALIGN_RIGHT},
        over{8.5, false, kDim, PANGO_ALIGN_RIGHT};
    heading(section.heading, {}, 60);
    constexpr double kName = 170, kNumber = 72;
    if (!section.columns.empty()) {
        double height = 0;
        for (std::size_t i = 0; i < section.columns.size(); ++i)
            height = std::max(height, write(section.columns[i], over,
                                            kMargin + 90 + kNumber * static_cast<double>(i), y_, kNumber));
        y_ += height + 2;
    }
    for (const auto& row : section.rows) {
        const bool numbers = !section.columns.empty();
        const double rest = kInner - kName - kGap;
        double height = 0;
        for (std::size_t i = 0; i < row.size(); ++i) {
            const auto layout = laidOut(row[i], i == 0 ? name : plain,
                                        i == 0    ? kName
                                        : numbers ? kNumber
                                                  : rest);
            int tall = 0;
            pango_layout_get_size(layout.get(), nullptr, &tall);
            height = std::max(height, static_cast<double>(tall) / PANGO_SCALE);
        }
        needs(height);
        for (std::size_t i = 0; i < row.size(); ++i) {
            if (i == 0)
                write(row[i], name, kMargin, y_, numbers ? 90 : kName);
            else if (numbers)
                write(row[i], number, kMargin + 90 + kNumber * static_cast<double>(i - 1), y_, kNumber);
            else
                write(row[i], plain, kMargin + kName + kGap, y_, rest);
        }
        y_ += height + 3;
    }
    for (const auto& point : section.points) {
        needs(16);
        write("•", plain, kMargin, y_, 10);
        y_ += write(point, plain, kMargin + 12, y_, kInner - 12) + 3;
    }
    if (!section.note.empty()) y_ += write(section.note, {8.5, false, kDim}, kMargin, y_ + 2, kInner) + 4;
}

void Paper::pictures(const Job& job, const std::vector<ReportPicture>& all, double words) {
    for (std::size_t i = 0; i < all.size(); ++i) {
        const auto column = i % kColumns;
        if (column == 0) needs(kPicture + words);
        const double x = kMargin + static_cast<double>(column) * (kCell + kGap);
        ink(kGround);
        cairo_rectangle(canvas_.get(), x, y_, kCell, kPicture);
        cairo_fill(canvas_.get());
        const auto preview = job.preview(all[i].id);
        if (const auto picture = preview.picture.empty() ? nullptr : jpegSurface(preview.picture))
            place(picture.get(), x, y_, kCell, kPicture, true);
        else
            wave(preview.peaks, x, y_);
        double y = y_ + kPicture + 2;
        const auto number = std::to_string(all[i].id);
        const double across = 9.0 * static_cast<double>(number.size()) + 5;
        write(number, {11, true}, x, y, across);
        for (std::size_t line = 0; line < all[i].lines.size() && line < 4; ++line) {
            const double in = line == 0 ? across : 0;
            const double down = line == 0 ? 2.5 : 0;
            y += write(all[i].lines[line], {7.5, false, line == 0 ? kBlack : kDim, PANGO_ALIGN_LEFT, 1},
                       x + in, y + down, kCell - in) +
                 down;
        }
        if (column + 1 == kColumns || i + 1 == all.size()) y_ += kPicture + words;
    }
}

}  // namespace

Result<std::string> pdfOf(const Job& job, const Report& report) {
    std::string bytes;
    Paper paper(bytes);
    paper.numberSheets(report.pages.empty() || report.pages.front().heading.empty());
    paper.title(report);
    for (const auto& section : report.sections) paper.section(section);
    constexpr double kAPictureAtLeast = kPicture + kWords + 40;
    paper.heading(report.picturesHeading, {}, kAPictureAtLeast);
    for (const auto& page : report.pages) {
        // A page that has a number is one of paper, too.
        if (!page.heading.empty() && &page != &report.pages.front()) paper.nextPage();
        paper.heading(page.heading, page.note, kAPictureAtLeast);
        paper.pictures(job, page.pictures, page.heading.empty() ? kWords : kFewWords);
    }
    const auto failed = paper.finish();
    if (failed != CAIRO_STATUS_SUCCESS)
        return Error{Fault::Failed,
                     std::string("The PDF could not be written: ") + cairo_status_to_string(failed), "",
                     "The same report is there as HTML"};
    return bytes;
}

}  // namespace dreskel
