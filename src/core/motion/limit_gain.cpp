#include "core/motion/limit_gain.h"

#include "core/motion/quick_limit.h"
#include "core/problem/input_error.h"
#include "core/train/train_check.h"

namespace bathmos {

std::optional<double> limit_within(const Train& train, const LimitQuestion& question,
                                   std::optional<double> near_rpm) {
    if (!check_train(train).empty())
        return std::nullopt;
    try {
        const MotionModel model(train);
        QuickLimitQuery quick;
        quick.range = question.range;
        quick.limits = question.limits;
        quick.near_rpm = near_rpm.value_or(0);
        const LimitSpeed estimate = estimate_limit(model, quick, question.stop);
        return refine_limit(model, after_estimate(quick, estimate), question.stop)
            .speed_rpm.value_or(question.range.last_rpm);
    } catch (const InputError&) {
        return std::nullopt; // too stiff to follow: this change says nothing
    }
}

std::optional<double> limit_gain(const Train& changed, std::optional<double> limit_now_rpm,
                                 const LimitQuestion& question) {
    const auto limit = limit_within(changed, question, limit_now_rpm);
    return limit ? std::optional(*limit - limit_now_rpm.value_or(question.range.last_rpm)) : std::nullopt;
}

} // namespace bathmos
