#pragma once
#include <QObject>
#include <functional>

#include "desk/start/card.h"

namespace cvane::desk {

class Document;
class RunQueue;

/// Leads from a surface that has just come in to coefficients and a picture: five steps, each at one click of a card
/// over the middle of the window. Can be left at any time and taken again from the menu Help.
class FirstSteps : public QObject {
    Q_OBJECT
  public:
    struct Window {
        std::function<void(const QString&)> goTo;  ///< a stage
        std::function<QString()> savePicture;      ///< of the 3D view; where it is then, empty: it could not be
    };
    /// @param card  owned by the window
    FirstSteps(Document& document, RunQueue& queue, Card& card, Window window);
    void begin();
    void leave();
    bool leading() const { return step_ != Step::None; }

  private:
    enum class Step { None, Size, Ground, Grid, Run, Read, Picture };
    void go(Step step);
    void refresh();
    bool tellWhatBlocks(const Card::Button& leave);
    void setGround(int floor);

    Document& document_;
    RunQueue& queue_;
    Card& card_;
    Window window_;
    Step step_ = Step::None;
};

}  // namespace cvane::desk
