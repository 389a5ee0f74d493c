// What a saved file is called and where it lies. Names that come from a card are hostile: whatever they say,
// the result is a relative path of ordinary names.
#pragma once

#include <optional>
#include <set>
#include <string>
#include <string_view>

#include "deliver/name_pattern.h"
#include "job/finding.h"

namespace dreskel {

// Dcf: see deliver/camera_card.h.
enum class Layout { Kind, Date, Camera, Folders, Flat, Dcf };
std::optional<Layout> layoutFromWord(std::string_view word);
std::string_view toWord(Layout layout);

// "Photo", "Clip", "Sound", "File".
std::string kindWord(Kind kind);

// One path component made harmless: no separators, control characters, reserved names, leading dots or
// trailing dots and spaces; at most 120 bytes. Never empty.
std::string safeName(std::string_view name);

// Folder and name, with '/' between, for example "Photos/2026-05-02 07.41.10 Orrery K2.jpg".
// `names`: what files are called whose name no directory knows.
std::string proposePath(const Finding& finding, Layout layout, const NamePattern& names = {});

// Of what belongs to another file that is saved, too: beside that, and called like it when it has no name of
// its own. The client's own folders are kept where the layout is theirs.
std::string proposeBeside(const Finding& owner, const Finding& finding, Layout layout,
                          const NamePattern& names = {});

// Keeps names apart within one delivery, without regard to case.
class NameBook {
  public:
    // The path itself, or with " (2)", " (3)" before its extension, when it is taken already.
    std::string claim(const std::string& path);

  private:
    std::set<std::string> taken_;
};

}  // namespace dreskel
