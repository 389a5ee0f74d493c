#include "source/reader_recipe.h"

#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>

#include "base/json_text.h"

namespace dreskel {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

constexpr std::uintmax_t kLargestRecipe = 1U << 20;
constexpr const char* kMark = "simulated_reader";

// Throws json::exception for what has the wrong type; the caller turns that into an Error.
ReaderFault faultFrom(const json& entry) {
    ReaderFault fault;
    fault.range = {entry.at("at").get<std::uint64_t>(), entry.at("length").get<std::uint64_t>()};
    const auto does = entry.at("does").get<std::string>();
    if (does == "stall") {
        fault.does = ReaderFault::Does::Stall;
    } else if (does == "vanish") {
        fault.does = ReaderFault::Does::Vanish;
    } else if (does != "fail") {
        throw json::other_error::create(600, "\"does\" must be fail, stall or vanish", &entry);
    }
    fault.times = entry.value("times", -1);
    fault.seconds = std::clamp(entry.value("seconds", 0.0), 0.0, 600.0);
    if (fault.range.length > UINT64_MAX - fault.range.offset)
        throw json::other_error::create(600, "\"length\" is too large", &entry);
    return fault;
}

Error unusable(const std::string& path, const std::string& what) {
    return {Fault::SourceUnusable, "The description of the simulated reader cannot be used: " + what, path,
            "docs/copies.md says how it is written"};
}

}  // namespace

std::optional<Result<std::shared_ptr<Source>>> openRecipe(const std::string& path) {
    std::error_code failed;
    if (!fs::is_regular_file(path, failed) || fs::file_size(path, failed) > kLargestRecipe)
        return std::nullopt;
    std::ifstream file(path);
    if (file.peek() != '{') return std::nullopt;
    const auto recipe = jsonFrom(file);
    if (!recipe.is_object() || !recipe.contains(kMark)) return std::nullopt;
    try {
        const auto& reader = recipe.at(kMark);
        const auto folder = fs::path(path).parent_path();
        ReaderPlan plan;
        plan.bytesPerSecond = reader.value("bytes_per_second", std::uint64_t{0});
        plan.vanishAfter = reader.value("vanish_after", std::uint64_t{0});
        if (reader.contains("record"))
            plan.record = (folder / reader.at("record").get<std::string>()).string();
        for (const auto& entry : reader.value("faults", json::array()))
            plan.faults.push_back(faultFrom(entry));
        auto under = openSource((folder / reader.at("image").get<std::string>()).string());
        if (!under) return under.error();
        auto source = std::make_shared<FailingSource>(under.value(), std::move(plan));
        source->setPath(path);
        return Result<std::shared_ptr<Source>>(std::shared_ptr<Source>(std::move(source)));
    } catch (const json::exception& problem) {
        return Result<std::shared_ptr<Source>>(unusable(path, problem.what()));
    }
}

}  // namespace dreskel
