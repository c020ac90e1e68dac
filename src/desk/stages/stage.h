#pragma once
#include <QFormLayout>
#include <QLabel>
#include <QObject>
#include <QVBoxLayout>
#include <QWidget>
#include <functional>

#include "desk/model/document.h"
#include "desk/plot.h"
#include "desk/scene_items.h"

namespace cvane::desk {

/// Property of a field: what another value in it puts out of date, a campaign::Affects.
inline constexpr const char* kAffects = "affects";

/// One step of the work: its sheet of settings on the right, and what it shows in the middle.
class Stage : public QObject {
    Q_OBJECT
  public:
    /// NeedsYou: nothing can go on without it; Optional: it is for those who want it.
    enum class State { NeedsYou, Ready, OutOfDate, AtWork, Optional, AfterRun, NeedsModel };
    /// Of the rail, in the order of the work.
    enum class Group { Shape, Tunnel, Work, Reading };
    Stage(Document& document, Middle& middle)
        : document_(document), middle_(middle), scene_(middle.canvas().renderer(), middle.canvas().margin()) {}
    virtual Group group() const = 0;
    virtual QString title() const = 0;
    /// Of its shortcut with Alt; none: the next of 1 to 9, 0 and R.
    virtual QChar ownKey() const { return {}; }
    virtual QString keyFigure() const = 0;
    virtual State state() const = 0;
    virtual void show() = 0;  ///< fills the middle; called when the stage is chosen and when its data change
    QWidget* sheet() { return sheet_; }
    void setCurrent(bool on) { current_ = on; }
    /// Whether it has something of its own to show in 3D. Where it has not, what the stage before showed stays, for
    /// pictures of it.
    virtual bool draws() const { return true; }
    virtual void showScene(bool on) { scene_.setShown(on); }
    /// Takes a table from elsewhere that was dropped, to be shown beside what was computed. @return whether it does
    /// that
    virtual bool takeTable(const QString&) { return false; }
    /// What it lacks before it can show anything; the window says so and offers to get it.
    enum class Need { Nothing, Model, Grid, Result };
    virtual Need need() const { return Need::Nothing; }
    bool current() const { return current_; }

  protected:
    // Pieces of sheets, so that all of them look and behave alike.
    QVBoxLayout* makeSheet();
    QFormLayout* section(const QString& title);
    /// A group whose rows are folded away behind a button of this name until they are asked for.
    QFormLayout* foldedGroup(const QString& title, const char* name);
    QLabel* note(const QString& text = {}, bool warning = false);
    // Rows from the table of settings, by the setting's name there ("grid.layers"): value, range, unit, and the
    // sentence under the pointer. `name` is the widget's, `intent` what the step is called that undo takes back.
    /// A length or an area is shown in the campaign's unit of it. @param component  of a setting that is a vector
    class QDoubleSpinBox* number(QFormLayout* form, const char* setting, const QString& label, const char* name,
                                 int decimals, const QString& intent, int component = -1);
    /// Of a number that lives in one of several settings. @param valueIn  where it is now [SI]
    class QDoubleSpinBox* number(QFormLayout* form, const char* setting, const QString& label, const char* name,
                                 int decimals, const QString& intent,
                                 const std::function<double&(campaign::Settings&)>& valueIn);
    class QSpinBox* whole(QFormLayout* form, const char* setting, const QString& label, const char* name, int step,
                          const QString& intent);
    class QLineEdit* list(QFormLayout* form, const char* setting, const QString& label, const char* name,
                          const QString& intent);
    /// Of a word, in the table's order; of a flag, false first; of a whole number, from its least on.
    /// @param words  none: those of the table
    class QComboBox* choice(QFormLayout* form, const char* setting, const QString& label, const char* name,
                            const QString& intent, const QStringList& words = {});
    /// Under the pointer: what the table of settings says of it.
    static void explain(QWidget& field, const char* setting);
    /// Before that.
    static void addToolTip(QWidget& field, const QString& text);
    double lengthUnit() const;  ///< [m]
    QString lengthSuffix() const;
    /// Changes settings, as a step that undo leads back here for.
    void change(const QString& intent, const campaign::Settings& next) { document_.change(intent, next, title()); }
    /// State of a stage that shows the selected point's result.
    State stateOfResult() const;
    /// Of a stage that shows the selected point's flow: that its values are provisional, to stand before other words.
    QString provisionalNote() const;
    /// Need of a stage that shows the selected point's result.
    Need needOfResult() const;
    /// The model's parts in the air, plain, among what the stage draws.
    void drawModel();
    /// Place [m] at so many per cent of the model's extent along an axis.
    double placeAt(int axis, int percent) const;

  private:
    struct Shown {
        double inSI;
        QString suffix;
    };
    template <class Field>
    static Field* fieldOf(const char* setting, const char* name);
    class QDoubleSpinBox* numberField(QFormLayout* form, const char* setting, const QString& label, const char* name,
                                      int decimals, const std::function<double(const campaign::Settings&)>& valueOf);
    std::function<Shown()> shownUnit(const std::string& unit) const;

  protected:
    Document& document_;
    Middle& middle_;
    SceneItems scene_;
    QWidget* sheet_ = nullptr;
    QVBoxLayout* column_ = nullptr;
    bool current_ = false;
};

}  // namespace cvane::desk
