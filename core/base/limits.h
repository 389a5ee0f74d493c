// Every bound that hostile input can run into, in one place. "Limit exceeded" is told apart from "malformed".
#pragma once

#include <cstdint>

namespace dreskel::limits {

constexpr std::uint64_t kLargestPhoto = 512ULL << 20;     // bytes of a JPEG before it is given up
constexpr std::uint64_t kLargestIndex = 64ULL << 20;      // bytes of a moov box that are looked at
constexpr std::uint64_t kLargestTablesOfAClip = 4000000;  // samples of one track
constexpr std::uint64_t kLargestPhotoPixels = 400000000;  // of one photo
constexpr std::uint64_t kMostChunksOfATrack = 500000;
constexpr std::size_t kMostMediaRanges = 1000;  // kept of one clip
constexpr int kMostTopLevelBoxes = 200000;      // fragments of a long clip
constexpr int kMostTracks = 64;
constexpr int kMostRiffChunks = 4096;
constexpr std::uint64_t kDecoderMemory = 1536ULL << 20;  // address space of the worker, bytes
constexpr int kDecoderStallSeconds = 60;                 // without a sign of life
constexpr std::uint32_t kLargestMessage = 256U << 20;    // between worker and core, bytes

}  // namespace dreskel::limits
