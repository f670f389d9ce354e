#include "thermal/still/picture_file.h"

#include "base/input_bounds.h"

#include <cstdio>
#include <fstream>
#include <iterator>
#include <memory>
#include <opencv2/imgproc.hpp>
#include <spng.h>
#include <turbojpeg.h>

namespace ustor {
namespace {

constexpr std::string_view pngMagic = "\x89PNG\r\n\x1a\n", jpegMagic = "\xff\xd8\xff", bmpMagic = "BM";

using Png = std::unique_ptr<spng_ctx, decltype(&spng_ctx_free)>;

Error fault(Message what, const std::string& file) {
    return {std::move(what), file, say("nothing was read")};
}

Error wrongSize(long width, long height, const std::string& file) {
    return fault(say("{width} by {height} pixels: a picture has between {least} and {most} each way",
                     {{"width", width},
                      {"height", height},
                      {"least", bounds::narrowest_px},
                      {"most", bounds::widest_px}}),
                 file);
}

Result<cv::Mat> readPng(const std::string& bytes, const std::string& file) {
    const Png png(spng_ctx_new(0), spng_ctx_free);
    spng_set_png_buffer(png.get(), bytes.data(), bytes.size());
    spng_ihdr head{};
    int bad = spng_get_ihdr(png.get(), &head);
    if (bad) return fault(verbatim(spng_strerror(bad)), file);
    if (!bounds::isPictureSize(head.width, head.height)) return wrongSize(head.width, head.height, file);
    const bool numbers = isPictureOfNumbers(bytes);
    cv::Mat pixels(static_cast<int>(head.height), static_cast<int>(head.width), numbers ? CV_16UC1 : CV_8UC3);
    bad = spng_decode_image(png.get(), pixels.data, pixels.total() * pixels.elemSize(),
                            numbers ? SPNG_FMT_PNG : SPNG_FMT_RGB8, 0);
    if (bad) return fault(verbatim(spng_strerror(bad)), file);
    if (!numbers) cv::cvtColor(pixels, pixels, cv::COLOR_RGB2BGR);
    return pixels;
}

Result<cv::Mat> readJpeg(const std::string& bytes, const std::string& file) {
    const std::unique_ptr<void, int (*)(tjhandle)> jpeg(tjInitDecompress(), tjDestroy);
    const auto* data = reinterpret_cast<const unsigned char*>(bytes.data());
    int width = 0, height = 0, sampling = 0, colours = 0;
    if (tjDecompressHeader3(jpeg.get(), data, bytes.size(), &width, &height, &sampling, &colours) != 0)
        return fault(verbatim(tjGetErrorStr2(jpeg.get())), file);
    if (!bounds::isPictureSize(width, height)) return wrongSize(width, height, file);
    cv::Mat pixels(height, width, CV_8UC3);
    // A warning, too: what is missing of a picture that was cut off would be filled with grey, as if seen.
    if (tjDecompress2(jpeg.get(), data, bytes.size(), pixels.data, width, 0, height, TJPF_BGR,
                      TJFLAG_ACCURATEDCT) != 0)
        return fault(verbatim(tjGetErrorStr2(jpeg.get())), file);
    return pixels;
}

/// A little-endian whole number of `bytes` at `place`.
std::int32_t wordAt(const std::string& bytes, std::size_t place) {
    std::uint32_t word = 0;
    for (std::size_t i = 4; i-- > 0;)
        word = word << 8 | static_cast<unsigned char>(bytes[place + i]);
    return static_cast<std::int32_t>(word);
}

Result<cv::Mat> readBmp(const std::string& bytes, const std::string& file) {
    // Places in the header of Windows bitmaps since version 3.
    constexpr std::size_t widthAt = 18, heightAt = 22, headEnds = 54;
    if (bytes.size() < headEnds) return fault(say("cut off"), file);
    const long width = wordAt(bytes, widthAt), height = std::labs(wordAt(bytes, heightAt));
    if (!bounds::isPictureSize(width, height)) return wrongSize(width, height, file);
    int seenWidth = 0, seenHeight = 0, format = TJPF_BGR;
    const std::unique_ptr<unsigned char, void (*)(unsigned char*)> pixels(
        tjLoadImage(file.c_str(), &seenWidth, 1, &seenHeight, &format, 0), tjFree);
    if (!pixels) return fault(verbatim(tjGetErrorStr2(nullptr)), file);
    return cv::Mat(seenHeight, seenWidth, CV_8UC3, pixels.get()).clone();
}

} // namespace

bool isPicture(std::string_view head) {
    return head.starts_with(pngMagic.substr(0, 4)) || head.starts_with(jpegMagic) ||
           head.starts_with(bmpMagic);
}

bool isPictureOfNumbers(std::string_view head) {
    // Of the first block of a PNG, which is its header (ISO/IEC 15948, 11.2.2).
    constexpr std::size_t depthAt = 24, kindAt = 25;
    return head.starts_with(pngMagic) && head.size() > kindAt && head[depthAt] == 16 &&
           head[kindAt] == SPNG_COLOR_TYPE_GRAYSCALE;
}

Result<cv::Mat> readPicture(const std::string& file) {
    std::ifstream in(file, std::ios::binary | std::ios::ate);
    if (!in) return fault(say("cannot be opened"), file);
    if (in.tellg() > bounds::still_bytes) return fault(say("larger than a picture can be"), file);
    in.seekg(0);
    const std::string bytes{std::istreambuf_iterator<char>(in), {}};
    if (bytes.starts_with(pngMagic.substr(0, 4))) return readPng(bytes, file);
    if (bytes.starts_with(jpegMagic)) return readJpeg(bytes, file);
    if (bytes.starts_with(bmpMagic)) return readBmp(bytes, file);
    return fault(say("neither PNG, JPEG nor BMP"), file);
}

Outcome writePng(const cv::Mat& bgra, const std::string& file) {
    const Error cannot{say("cannot be written"), file, {}};
    cv::Mat rgba;
    cv::cvtColor(bgra, rgba, cv::COLOR_BGRA2RGBA);
    const Png png(spng_ctx_new(SPNG_CTX_ENCODER), spng_ctx_free);
    const std::unique_ptr<FILE, int (*)(FILE*)> out(std::fopen(file.c_str(), "wb"), std::fclose);
    if (!out) return cannot;
    spng_ihdr head{static_cast<std::uint32_t>(rgba.cols),
                   static_cast<std::uint32_t>(rgba.rows),
                   8,
                   SPNG_COLOR_TYPE_TRUECOLOR_ALPHA,
                   0,
                   0,
                   0};
    spng_set_png_file(png.get(), out.get());
    spng_set_ihdr(png.get(), &head);
    if (spng_encode_image(png.get(), rgba.data, rgba.total() * rgba.elemSize(), SPNG_FMT_PNG,
                          SPNG_ENCODE_FINALIZE) != 0 ||
        std::fflush(out.get()) != 0)
        return cannot;
    return Done{};
}

} // namespace ustor
