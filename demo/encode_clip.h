// Clips with sound as the demo's made-up cameras write them, and spoken notes as its recorder does.
#pragma once

#include <ctime>
#include <string>

#include "demo/scene.h"

namespace dreskel::demo {

struct ClipPlan {
    View view;
    int width = 960, height = 540;
    double seconds = 5;
    bool quickTime = false;  // MOV with PCM sound; otherwise MP4 with AAC
    int bFrames = 0;
    std::string make, model;
    std::time_t taken = 0;  // UTC
};

// Empty when the encoder is missing.
std::vector<std::uint8_t> encodeClip(const ClipPlan& plan);

struct NotePlan {
    std::uint32_t seed = 1;
    double seconds = 20;
    std::string recorder;
    std::string date, time;  // "2026-05-02", "07:41:10"
};

// A Broadcast WAV (EBU Tech 3285), 48 kHz, 16 bit, one channel.
std::vector<std::uint8_t> encodeNote(const NotePlan& plan);

// Sound, -1 to 1: something like speech, and something like water over a wheel.
std::vector<float> speech(std::uint32_t seed, double seconds, int rate);
std::vector<float> waterAndWheel(std::uint32_t seed, double seconds, int rate);

}  // namespace dreskel::demo
