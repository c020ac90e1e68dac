#pragma once
#include <QApplication>
#include <ctime>

namespace cvane::test {

/// An application that measures how long one event holds the window's thread, in that thread's own processor time: a
/// busy machine does not count.
class TimedApplication : public QApplication {
  public:
    using QApplication::QApplication;
    bool notify(QObject* receiver, QEvent* event) override {
        if (depth_++ > 0) {
            const bool done = QApplication::notify(receiver, event);
            --depth_;
            return done;
        }
        const double before = now();
        const auto type = event->type();
        const bool done = QApplication::notify(receiver, event);
        --depth_;
        if (const double held = now() - before; held > longest) {
            longest = held;
            what = type;
        }
        return done;
    }
    double longest = 0.0;  ///< [s] since it was set to zero
    QEvent::Type what = QEvent::None;

  private:
    static double now() {
        timespec t;
        ::clock_gettime(CLOCK_THREAD_CPUTIME_ID, &t);
        return static_cast<double>(t.tv_sec) + 1e-9 * static_cast<double>(t.tv_nsec);
    }
    int depth_ = 0;
};

}  // namespace cvane::test
