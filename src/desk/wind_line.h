#pragma once
#include <QDoubleSpinBox>
#include <QLabel>
#include <QWidget>

#include "desk/model/document.h"

namespace cvane::desk {

/// The sentence at the top: which air blows. Speed, Mach or Reynolds number can be typed; the others follow. It edits
/// the selected point's speed and angles in the schedule.
class WindLine : public QWidget {
    Q_OBJECT
  public:
    explicit WindLine(Document& document, QWidget* parent = nullptr);

  private:
    void show();
    void typedSpeed(double metresPerSecond);
    void typedAngle(bool alpha, double degrees);
    void typedAir();
    void replaceCondition(const QString& intent, const campaign::Condition& to);
    Document& document_;
    QDoubleSpinBox *speed_, *alpha_, *beta_, *altitude_, *offset_, *reynolds_, *mach_;
    QLabel* q_;
    bool showing_ = false;
};

}  // namespace cvane::desk
