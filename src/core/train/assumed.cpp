#include "core/train/assumed.h"

#include "core/train/train_fields.h"

#include <fmt/format.h>

namespace bathmos {

namespace {

const Tolerance* assumption(const Train& train, const std::string& key) {
    const auto at = train.tolerances.find(key);
    return at != train.tolerances.end() && at->second.source == Source::Estimate ? &at->second : nullptr;
}

} // namespace

std::vector<AssumedNumber> assumed_numbers(const Train& train) {
    std::vector<AssumedNumber> out;
    const auto add = [&](const std::string& key, std::string label, double value, Quantity quantity) {
        if (const Tolerance* tolerance = assumption(train, key))
            out.push_back({key, std::move(label), value, tolerance->plus_minus, quantity});
    };
    for (const TrainField& field : train_fields())
        if (const double* value = field.at_const(train))
            add(std::string(field.key), std::string(field.label), *value, field.quantity);
    for (std::size_t i = 0; i < train.springs.size(); ++i) {
        const Spring& spring = train.springs[i];
        for (const SpringField& field : spring_fields())
            if (const double* value = field.at_const(spring))
                add(fmt::format("springs[{}].{}", i, field.key),
                    fmt::format("{}, {}", field.label, spring.name), *value, field.quantity);
        if (std::holds_alternative<LoadTable>(spring.kind))
            add(fmt::format("springs[{}].load_table", i), fmt::format("Loads, {}", spring.name), 1,
                Quantity::Count);
    }
    return out;
}

void count_as_known(Train& train, const std::string& key) {
    if (assumption(train, key))
        train.tolerances.erase(key);
}

} // namespace bathmos
