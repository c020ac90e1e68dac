#pragma once
#include <QMainWindow>
#include <QStackedWidget>
#include <memory>

#include "desk/look.h"
#include "desk/model/document.h"
#include "desk/model/run_queue.h"
#include "desk/stage_rail.h"

namespace cvane::desk {

class Card;
class FirstSteps;
class HelpWindow;
class MessageLine;
class PointBoard;
class StartPage;
class VariantPicker;

/// Arranges the parts: wind line above, stage rail left, middle, stage sheet right, point board below.
class Window : public QMainWindow {
    Q_OBJECT
  public:
    Window();
    ~Window() override;
    Document& document() { return document_; }
    RunQueue& queue() { return queue_; }
    void goTo(int stage);
    bool goTo(const QString& title);  ///< whether there is a stage of that name
    int stages() const { return static_cast<int>(stages_.size()); }
    int stage() const { return current_; }
    Stage& stageAt(int i) { return *stages_[static_cast<std::size_t>(i)]; }
    Middle& middle() { return *middle_; }
    /// A campaign's folder is opened, a surface file becomes a campaign by its dialog, another file is a section.
    void bring(const QString& fileOrFolder);
    /// Size and place as they were when a window was closed last.
    void restorePlace();

  protected:
    void closeEvent(QCloseEvent* e) override;
    void showEvent(QShowEvent* e) override;
    void dragEnterEvent(QDragEnterEvent* e) override;
    void dropEvent(QDropEvent* e) override;

  private:
    void newCampaign();
    void newCampaignFrom(const QString& model);
    void showHelp();
    void keepPreview();
    void newForSections() { newWithoutModel("sections.cvane", "Sections"); }
    void newForWing();
    void newForOutline();
    /// @return whether it was made: the user may choose no folder
    bool newWithoutModel(const QString& proposal, const char* stage);
    void openCampaign();
    void cleanUp();
    void makeMenus();
    void hearDocument();
    void say(const QString& text);
    void showSurroundings();
    void showNeed();
    /// Of the field that the keys go to: what another value in it puts out of date.
    void sayWhatIsAtStake(const QWidget* field);
    void setTheme(Theme theme);
    QString saveFirstPicture();
    Document document_;
    RunQueue queue_{document_};
    Middle* middle_;
    std::vector<Stage*> stages_;
    StageRail* rail_;
    QStackedWidget* sheets_;
    VariantPicker* variants_;
    PointBoard* board_;
    MessageLine* message_;
    Card* need_;
    FirstSteps* firstSteps_;
    QStackedWidget* central_;
    StartPage* start_;
    HelpWindow* help_ = nullptr;
    bool boardByHand_ = false;  ///< the user has chosen its height
    int current_ = 0;
    bool hadModel_ = false;  ///< of the open campaign, when its settings changed last
    bool framed_ = false, laidOut_ = false;
    double framedSize_ = 0;  ///< diagonal of the model as it was framed [m]
};

}  // namespace cvane::desk
