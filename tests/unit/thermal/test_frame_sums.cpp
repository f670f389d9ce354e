#include "base/random.h"
#include "thermal/frame_sums.h"
#include "unit/thermal/test_thermal.h"

#include <QTest>
#include <cmath>
#include <vector>

using namespace ustor;

// Against the sums written out, in double: any number of frames and rows, pictures that end within a strip.
void TestFrameSums::sumsAreThoseOfEachTerm() {
    Random random(11);
    for (const long pixels : {3L, 64L, 200L, 1000L})
        for (const int count : {1, 7, framesAtOnce})
            for (const int rows : {1, 4, 7, 19}) {
                const auto made = [&](int how, long each) {
                    std::vector<std::vector<float>> all(static_cast<std::size_t>(how));
                    for (auto& one : all)
                        for (long i = 0; i < each; ++i)
                            one.push_back(static_cast<float>(random.normal()));
                    return all;
                };
                const auto frames = made(count, pixels), weights = made(rows, count),
                           before = made(rows, pixels);
                auto sums = before;
                std::vector<float> squares(static_cast<std::size_t>(pixels), 0.5F);
                std::vector<const float*> in, w;
                std::vector<float*> out;
                for (const auto& f : frames)
                    in.push_back(f.data());
                for (const auto& one : weights)
                    w.push_back(one.data());
                for (auto& s : sums)
                    out.push_back(s.data());
                addFrames(in.data(), count, w.data(), out.data(), rows, squares.data(), pixels);
                for (std::size_t p = 0; p < static_cast<std::size_t>(pixels); ++p) {
                    double square = 0.5;
                    for (const auto& f : frames)
                        square += static_cast<double>(f[p]) * static_cast<double>(f[p]);
                    QVERIFY(std::fabs(squares[p] - square) < 1e-4 * square);
                    for (std::size_t r = 0; r < sums.size(); ++r) {
                        double wanted = before[r][p];
                        for (std::size_t f = 0; f < frames.size(); ++f)
                            wanted += static_cast<double>(weights[r][f]) * static_cast<double>(frames[f][p]);
                        QVERIFY(std::fabs(sums[r][p] - wanted) < 1e-4);
                    }
                }
            }
}
