#pragma once
#include <QDoubleSpinBox>
#include <QPushButton>

#include "desk/stages/outline/profile_view.h"
#include "desk/stages/stage.h"
#include "desk/stages/wing/cell_table.h"

namespace cvane::desk {

/// A vehicle from its side view: corners in a table and in a picture that are always in step, its plan, wheels and
/// plates, and what it differs in from the base. The closed surface follows at once and is the campaign's model.
class OutlineStage : public Stage {
    Q_OBJECT
  public:
    OutlineStage(Document& document, Middle& middle);
    QString title() const override { return "Outline"; }
    QChar ownKey() const override { return u'L'; }  // the others keep theirs
    Group group() const override { return Group::Shape; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;
    bool draws() const override { return false; }
    /// A vehicle to begin with, as this campaign's model.
    void build();
    ProfileView& view() { return *view_; }

  private:
    bool hasOutline() const { return document_.isOpen() && document_.settings().model.outline.has_value(); }
    const vehicle::Outline& outline() const { return *document_.settings().model.outline; }
    /// The outline with a change, as one step of undo; one that cannot be is said and not taken.
    void changeOutline(const QString& intent, const std::function<void(vehicle::Outline&)>& edit);
    void makeTables();
    void makeNumbers();
    void fill();
    void anotherBuild();
    void number(QFormLayout* form, const char* name, const QString& label, const QString& tip, const QString& suffix,
                double high, double vehicle::Outline::*value);

    struct Number {
        QDoubleSpinBox* box;
        double vehicle::Outline::*value;
        bool isAngle;
    };
    QPushButton *build_ = nullptr, *another_ = nullptr;
    QWidget* edits_ = nullptr;
    CellTable *profile_ = nullptr, *plan_ = nullptr, *wheels_ = nullptr, *plates_ = nullptr;
    std::vector<Number> numbers_;
    QLabel *says_ = nullptr, *differs_ = nullptr;
    ProfileView* view_ = nullptr;
    bool filling_ = false;
};

}  // namespace cvane::desk
