#include "session/results/input_hash.h"

#include "io/train/train_file.h"

#include <fmt/format.h>
#include <memory>
#include <xxhash.h>

namespace bathmos::session {

namespace {

class Hash {
  public:
    Hash() : state_(XXH3_createState(), &XXH3_freeState) { XXH3_128bits_reset(state_.get()); }
    void add(const void* data, std::size_t bytes) { XXH3_128bits_update(state_.get(), data, bytes); }
    void add(const std::string& text) {
        add(text.data(), text.size());
        add("", 1); // so that "ab", "c" is not "a", "bc"
    }
    template <class Number>
    void add(const std::vector<Number>& numbers) {
        const std::size_t count = numbers.size();
        add(&count, sizeof count);
        add(numbers.data(), count * sizeof(Number));
    }
    std::string text() const {
        const XXH128_hash_t h = XXH3_128bits_digest(state_.get());
        return fmt::format("{:016x}{:016x}", h.high64, h.low64);
    }

  private:
    std::unique_ptr<XXH3_state_t, XXH_errorcode (*)(XXH3_state_t*)> state_;
};

void add_text(Hash& hash, const std::string& text, const LimitsInForce& limits) {
    hash.add(program_version());
    hash.add(text);
    hash.add(limits.name);
    hash.add(fmt::format("{}", limits.check_lift_m));
    for (const Limit& limit : limits)
        hash.add(fmt::format("{} {} {}", limit.key, limit.above, limit.below.value_or(-1e9)));
}

void add_train(Hash& hash, const Train& train, const LimitsInForce& limits) {
    add_text(hash, io::train_text(train), limits);
}

} // namespace

std::string program_version() {
    return BATHMOS_VERSION;
}

std::string hash_of(const std::string& text, const LimitsInForce& limits) {
    Hash hash;
    add_text(hash, text, limits);
    return hash.text();
}

std::string hash_of(const SweepInputs& inputs) {
    Hash hash;
    add_train(hash, inputs.train, inputs.limits);
    hash.add(fmt::format("{}:{}:{}", inputs.range.first_rpm, inputs.range.last_rpm, inputs.range.step_rpm));
    return hash.text();
}

std::string hash_of(const RigTrace& trace, const Train& train, bool reversed, const LimitsInForce& limits) {
    Hash hash;
    add_train(hash, train, limits);
    hash.add(fmt::format("{} {} {}", reversed, trace.once_per_crank_turn, trace.source));
    for (const RigTurn& turn : trace.turns)
        hash.add(fmt::format("{} {} {} {}", turn.speed_rpm, turn.first, turn.count, turn.follows_on));
    hash.add(trace.crank_deg);
    hash.add(trace.lift_mm);
    return hash.text();
}

} // namespace bathmos::session
