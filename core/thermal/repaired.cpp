#include "thermal/repaired.h"

#include "base/median.h"
#include "thermal/passing.h"
#include "thermal/repair.h"

#include <algorithm>
#include <cmath>
#include <future>
#include <opencv2/imgproc.hpp>
#include <utility>

namespace ustor {
namespace {

std::string percent(double share) {
    return std::to_string(std::lround(100 * share)) + " %";
}

/// Pictures that the camera or the cable lost, by the times between those that came.
void tellGaps(const std::vector<double>& times_s, RepairedFrames& repaired) {
    if (times_s.size() < 3) return;
    std::vector<double> steps_s;
    for (std::size_t i = 1; i < times_s.size(); ++i)
        steps_s.push_back(times_s[i] - times_s[i - 1]);
    const double usual_s = medianOf(steps_s);
    constexpr double lost = 1.6;
    long missing = 0;
    double longest_s = 0;
    for (const double step : steps_s)
        if (step > lost * usual_s) {
            missing += std::lround(step / usual_s) - 1;
            longest_s = std::max(longest_s, step);
        }
    if (missing > 0)
        repaired.undone.push_back(say(
            "{missing} frames are missing, the longest gap {longest} ms: nothing is known of those instants",
            {{"missing", missing}, {"longest", std::lround(1000 * longest_s)}}));
}

} // namespace

namespace {

/// Frames that are worked on at a time: enough to be worth a thread, few enough for the memory.
std::size_t batchOf(const std::vector<ThermalFrame>& frames) {
    constexpr std::size_t most = 48, fewest = 4, pixels = 4'000'000;
    return frames.empty() ? most
                          : std::clamp(pixels / std::max<std::size_t>(1, frames.front().centikelvin.total()),
                                       fewest, most);
}

/// The pictures as they came are let go of.
std::vector<StreamRepair::Prepared> preparedFrom(std::vector<ThermalFrame>& frames, std::size_t first,
                                                 std::size_t batch) {
    std::vector<StreamRepair::Prepared> out;
    for (std::size_t i = first; i < std::min(first + batch, frames.size()); ++i) {
        out.push_back(StreamRepair::prepared(frames[i]));
        frames[i].centikelvin.release();
    }
    return out;
}

} // namespace

RepairedFrames repairFrames(std::vector<ThermalFrame> frames, const LeftOut& leftOut) {
    RepairedFrames repaired;
    StreamRepair repair(leftOut);
    std::vector<double> came_s;
    std::size_t kept = 0;
    for (ThermalFrame& frame : frames) {
        came_s.push_back(frame.time_s);
        if (!repair.admits(frame) || (kept > 0 && frame.time_s <= frames[kept - 1].time_s)) continue;
        repaired.times_s.push_back(frame.time_s);
        std::swap(frames[kept++], frame);
    }
    frames.resize(kept);
    const std::size_t batch = batchOf(frames);
    if (kept > 0) repaired.rises_k.expect(kept, static_cast<double>(frames.front().centikelvin.total()));
    // Only the following of the camera wants its frames one after the other: a second core makes those to
    // come ready and finishes those that are placed.
    auto ready = preparedFrom(frames, 0, batch);
    std::vector<StreamRepair::Placed> placed;
    const auto finish = [&] {
        for (const StreamRepair::Placed& frame : placed)
            repaired.rises_k.push_back(repair.counted(repair.finished(frame)).kelvin);
    };
    for (std::size_t next = batch; !ready.empty(); next += batch) {
        auto beside = std::async(std::launch::async, [&, next] {
            finish();
            return preparedFrom(frames, next, batch);
        });
        std::vector<StreamRepair::Placed> now;
        for (StreamRepair::Prepared& frame : ready)
            now.push_back(repair.placed(std::move(frame)));
        ready = beside.get();
        placed = std::move(now);
    }
    finish();
    repaired.firstFrame_px = repair.firstFrame_px();
    repaired.done = repair.notes();
    repaired.undone = repair.doubts();
    tellGaps(came_s, repaired);
    return repaired;
}

void leaveOutPassing(RepairedFrames& repaired, const std::vector<SupplySample>& supply) {
    while (repaired.means_k.size() < repaired.rises_k.size())
        repaired.means_k.push_back(blockMeans(repaired.rises_k.at(repaired.means_k.size())));
    repaired.covered = passingThrough(repaired.means_k, repaired.times_s, supply);
    cv::Mat sum;
    long frames = 0;
    for (const cv::Mat& blocks : repaired.covered) {
        if (blocks.empty()) continue;
        ++frames;
        if (sum.empty()) sum = cv::Mat::zeros(blocks.size(), CV_32FC1);
        cv::add(sum, cv::Mat(blocks != 0) / 255, sum, cv::noArray(), CV_32F);
    }
    if (frames == 0) return;
    repaired.done.push_back(
        {Repair::Passing,
         say("something passed through the picture in {frames} frames: left out where it was",
             {{"frames", frames}})});
    constexpr double most = 0.5;
    const double hidden =
        static_cast<double>(cv::countNonZero(sum > most * static_cast<double>(repaired.covered.size()))) /
        static_cast<double>(sum.total());
    if (hidden > 0)
        repaired.undone.push_back(
            say("{hidden} of the picture was covered for most of the time: little is known there",
                {{"hidden", percent(hidden)}}));
}

} // namespace ustor
