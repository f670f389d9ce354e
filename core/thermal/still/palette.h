#pragma once

#include "thermal/still/still.h"

namespace ustor {

/// The scale bar inside a picture in false colours.
struct ScaleBar {
    cv::Rect at;
    bool upright = true; ///< upright: hot above; lying: hot at the right
};

/// Finds it: a strip whose colour does not change across and goes a long way along, in small steps.
/// `bgr`: CV_8UC3.
std::optional<ScaleBar> findScaleBar(const cv::Mat& bgr);

/// The colours of a bar, learnt from the picture itself.
class Palette {
  public:
    /// Error when the strip has too few colours to tell temperatures.
    static Result<Palette> learn(const cv::Mat& bgr, const ScaleBar& bar, const std::string& where);

    enum class Place { Inside, Saturated, Strange, Twofold };
    struct Match {
        Place place = Place::Strange;
        double share = 0; ///< 0 at the cold end, 1 at the hot one
    };
    /// Where on the bar a colour stands. Saturated: at either end, where it may as well lie beyond. Strange:
    /// on no place of the bar (words, crosses, marks laid over the heat). Twofold: on two places far apart.
    Match match(const cv::Vec3b& colour) const;
    double step() const; ///< share from one colour to the next

  private:
    std::vector<cv::Vec3f> m_colours; ///< from cold to hot
    double m_tolerance = 0;           ///< of a colour's distance
};

/// Temperatures from colours: `low_c` and `high_c` are what the ends of the bar say. The bar itself and what
/// is not inside the palette are not a number; the notes say how many pixels and why.
Result<Still> stillFromColours(const cv::Mat& bgr, double low_c, double high_c, std::optional<ScaleBar> bar,
                               const std::string& where);

} // namespace ustor
