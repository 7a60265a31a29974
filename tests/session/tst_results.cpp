// Results handed on by the hash of their inputs, and work in the background: one thread and many.
#include "core/train/train_starter.h"
#include "session/results/results.h"
#include "session/work/background.h"
#include "support.h"

#include <atomic>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>

using namespace bathmos;
using namespace bathmos::test;
using session::Background;
using session::Results;
using session::SweepInputs;

namespace {

// An owner's event loop: calls wait here until the owner takes them.
class Loop {
  public:
    Background::Deliver deliver() {
        return [this](Background::Call call) {
            const std::lock_guard lock(mutex_);
            calls_.push_back(std::move(call));
            there_.notify_all();
        };
    }
    // Takes calls until `done`, for half a minute at most.
    bool run_until(const std::function<bool()>& done) {
        const auto end = std::chrono::steady_clock::now() + std::chrono::seconds(30);
        while (!done()) {
            Background::Call call;
            {
                std::unique_lock lock(mutex_);
                if (!there_.wait_until(lock, end, [&] { return !calls_.empty(); }))
                    return false;
                call = std::move(calls_.front());
                calls_.pop_front();
            }
            call();
        }
        return true;
    }
    void run_rest() {
        std::deque<Background::Call> rest;
        {
            const std::lock_guard lock(mutex_);
            rest.swap(calls_);
        }
        for (Background::Call& call : rest)
            call();
    }

  private:
    std::mutex mutex_;
    std::condition_variable there_;
    std::deque<Background::Call> calls_;
};

SweepInputs few() {
    return {starter_train(), {5000, 5400, 200}, {}};
}

} // namespace

class TstResults : public QObject {
    Q_OBJECT

  private slots:
    void a_sweep_is_computed_once_and_handed_on() {
        Results results;
        QVERIFY(!results.find_sweep(few()));
        const auto first = results.sweep(few());
        std::size_t told = 0;
        SweepWatch watch;
        watch.motion = [&](const std::shared_ptr<const Motion>&) { ++told; };
        const auto second = results.sweep(few(), watch);
        QCOMPARE(first.get(), second.get());
        QCOMPARE(told, first->motions.size()); // what is kept is told, too
        QCOMPARE(results.computed(), std::size_t{1});
        SweepInputs other = few();
        other.train.valve.mass_kg += 1e-3;
        QVERIFY(results.sweep(other).get() != first.get());
        QCOMPARE(results.computed(), std::size_t{2});
    }

    void only_the_newest_are_kept() {
        Results results;
        SweepInputs inputs{starter_train(), {5000, 5000, 100}, {}};
        for (int i = 0; i < 12; ++i) {
            inputs.train.valve.mass_kg += 1e-4;
            results.keep(inputs, std::make_shared<const Sweep>());
        }
        QVERIFY(results.find_sweep(inputs));
        inputs.train.valve.mass_kg -= 11e-4;
        QVERIFY(!results.find_sweep(inputs));
    }

    // Fine steps make thousands of motions: the newest sweep stays whatever its size, those before it only as
    // far as there is room.
    void sweeps_of_many_motions_are_kept_by_their_number() {
        Results results;
        SweepInputs inputs{starter_train(), {5000, 8000, 100}, {}};
        const auto keep = [&](double last_rpm, std::size_t motions) {
            inputs.range.last_rpm = last_rpm;
            auto made = std::make_shared<Sweep>();
            made->motions.resize(motions);
            results.keep(inputs, std::move(made));
        };
        const auto there = [&](double last_rpm) {
            inputs.range.last_rpm = last_rpm;
            return results.find_sweep(inputs) != nullptr;
        };
        keep(8000, 300);
        keep(8100, 300);
        keep(8200, 300);
        QVERIFY(there(8000) && there(8100) && there(8200));
        keep(8300, 300);
        QVERIFY(!there(8000) && there(8100) && there(8200) && there(8300));
        keep(8400, 2000);
        QVERIFY(!there(8200) && !there(8300) && there(8400));
        keep(8500, 61);
        QVERIFY(!there(8400) && there(8500));
    }

    void threads_that_ask_for_the_same_get_the_same() {
        Results results;
        std::vector<std::shared_ptr<const Sweep>> got(4);
        {
            std::vector<std::jthread> threads;
            for (auto& one : got)
                threads.emplace_back([&] { one = results.sweep(few()); });
        }
        for (const auto& one : got)
            QCOMPARE(one.get(), got.front().get());
        QCOMPARE(results.computed(), std::size_t{1});
    }

    void one_that_waits_can_be_stopped_and_a_stopped_one_leaves_nothing() {
        Results results;
        std::stop_source stopped;
        stopped.request_stop();
        SweepWatch watch;
        watch.stop = stopped.get_token();
        QVERIFY_THROWS_EXCEPTION(Stopped, results.sweep(few(), watch));
        QVERIFY(!results.find_sweep(few()));
        QVERIFY(results.sweep(few())); // and blocks nobody
        Train impossible = starter_train();
        impossible.pushrod->damping_s = 1;
        CONTAINS(problem_of([&] { results.sweep({impossible, {5000, 5200, 200}, {}}); }).what, "stiff");
        CONTAINS(problem_of([&] { results.sweep({impossible, {5000, 5200, 200}, {}}); }).what, "stiff");
    }

    void what_is_posted_arrives_in_order_on_the_owner_s_thread() {
        Loop loop;
        Background work(loop.deliver());
        std::vector<int> seen;
        const auto owner = std::this_thread::get_id();
        bool ended = false;
        work.start(
            [&](const std::stop_token&, const Background::Post& post) {
                for (int i = 0; i < 50; ++i)
                    post([&, i] {
                        if (std::this_thread::get_id() == owner)
                            seen.push_back(i);
                    });
            },
            [&](const std::string& failure) { ended = failure.empty(); });
        QVERIFY(work.running());
        QVERIFY(loop.run_until([&] { return !work.running(); }));
        QVERIFY(ended);
        QCOMPARE(seen.size(), std::size_t{50});
        QVERIFY(std::is_sorted(seen.begin(), seen.end()));
    }

    void nothing_arrives_after_a_stop_or_a_new_start() {
        Loop loop;
        Background work(loop.deliver());
        std::atomic<bool> posted = false;
        bool old_arrived = false, new_arrived = false;
        work.start(
            [&](const std::stop_token&, const Background::Post& post) {
                post([&] { old_arrived = true; });
                posted = true;
            },
            [&](const std::string&) { old_arrived = true; });
        while (!posted)
            std::this_thread::yield();
        work.start(
            [&](const std::stop_token&, const Background::Post& post) { post([&] { new_arrived = true; }); },
            [](const std::string&) {});
        QVERIFY(loop.run_until([&] { return !work.running(); }));
        loop.run_rest();
        QVERIFY(!old_arrived && new_arrived);
        std::atomic<bool> stopped = false;
        work.start(
            [&](const std::stop_token& stop, const Background::Post&) {
                while (!stop.stop_requested())
                    std::this_thread::yield();
                stopped = true;
                throw Stopped();
            },
            [&](const std::string&) { old_arrived = true; });
        work.stop();
        QVERIFY(stopped && !work.running());
        loop.run_rest();
        QVERIFY(!old_arrived);
    }

    void what_goes_wrong_is_told_in_its_own_words() {
        Loop loop;
        Background work(loop.deliver());
        std::string said;
        work.start(
            [](const std::stop_token&, const Background::Post&) { throw std::runtime_error("no such file"); },
            [&](const std::string& failure) { said = failure; });
        QVERIFY(loop.run_until([&] { return !work.running(); }));
        QCOMPARE(said, std::string("no such file"));
    }
};

QTEST_APPLESS_MAIN(TstResults)
#include "tst_results.moc"
