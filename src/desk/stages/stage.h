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

/// One step of the work: its sheet of settings on the right, and what it shows in the middle.
class Stage : public QObject {
    Q_OBJECT
  public:
    enum class State { NeedsYou, Ready, OutOfDate, AtWork };
    /// Of the rail, in the order of the work.
    enum class Group { Shape, Tunnel, Work, Reading };
    Stage(Document& document, Middle& middle)
        : document_(document), middle_(middle), scene_(middle.canvas().renderer()) {}
    virtual Group group() const = 0;
    virtual QString title() const = 0;
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
    class QDoubleSpinBox* number(QFormLayout* form, const QString& label, const char* name, double low, double high,
                                 int decimals, const QString& suffix, const QString& intent,
                                 std::function<double&(campaign::Settings&)> field);
    class QSpinBox* whole(QFormLayout* form, const QString& label, const char* name, int low, int high, int step,
                          const QString& intent, std::function<int&(campaign::Settings&)> field);
    class QLineEdit* list(QFormLayout* form, const QString& label, const char* name, const QString& intent,
                          std::function<std::vector<double>&(campaign::Settings&)> field);
    class QComboBox* choice(QFormLayout* form, const QString& label, const char* name, const QStringList& words,
                            const QString& intent, std::function<int(const campaign::Settings&)> get,
                            std::function<void(campaign::Settings&, int)> set);
    /// Like number(), of a length: shown in the campaign's unit of length, kept in metres. low and high [m]
    class QDoubleSpinBox* length(QFormLayout* form, const QString& label, const char* name, double low, double high,
                                 int decimals, const QString& intent,
                                 std::function<double&(campaign::Settings&)> field);
    /// The same of an area, kept in m2.
    class QDoubleSpinBox* area(QFormLayout* form, const QString& label, const char* name, double low, double high,
                               int decimals, const QString& intent, std::function<double&(campaign::Settings&)> field);
    double lengthUnit() const;  ///< [m]
    QString lengthSuffix() const;
    /// Changes settings, as a step that undo leads back here for.
    void change(const QString& intent, const campaign::Settings& next) { document_.change(intent, next, title()); }
    /// State of a stage that shows the selected point's result.
    State stateOfResult() const;
    /// Need of a stage that shows the selected point's result.
    Need needOfResult() const;
    /// Place [m] at so many per cent of the model's extent along an axis.
    double placeAt(int axis, int percent) const;

  private:
    struct Shown {
        double inSI;
        QString suffix;
    };
    class QDoubleSpinBox* measured(QFormLayout* form, const QString& label, const char* name, double low, double high,
                                   int decimals, const QString& intent,
                                   std::function<double&(campaign::Settings&)> field, std::function<Shown()> unit);
    template <class Box, class Value>
    Box* bound(Box* box, QFormLayout* form, const QString& label, const char* name, Value low, Value high,
               const QString& intent, std::function<Value&(campaign::Settings&)> field);

  protected:
    Document& document_;
    Middle& middle_;
    SceneItems scene_;
    QWidget* sheet_ = nullptr;
    QVBoxLayout* column_ = nullptr;
    bool current_ = false;
};

}  // namespace cvane::desk
