#pragma once
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>
#include <QWidget>
#include <functional>
#include <optional>

#include "desk/model/document.h"

namespace cvane::desk {

/// The sentence at the top: which air blows at the selected point. It is a reading. Another value that is typed there
/// changes nothing by itself: the line offers to add that condition to the schedule (Enter), to change this point
/// (Shift+Enter), or to leave it (Esc). Of speed, Mach and Reynolds number the others follow the one that is typed.
class WindLine : public QWidget {
    Q_OBJECT
  public:
    explicit WindLine(Document& document, QWidget* parent = nullptr);

  signals:
    void said(const QString& sentence);

  protected:
    bool eventFilter(QObject* watched, QEvent* e) override;  ///< the keys of the offer, in its fields

  private:
    /// What was typed and not decided on.
    struct Draft {
        campaign::Point of;  ///< the point that was read
        campaign::Condition condition;
        campaign::AirSettings air;
    };
    void show();
    void showDraft(const QDoubleSpinBox* typed);
    void drafted(QDoubleSpinBox* box, double value);
    void add();
    void change();
    void leave();
    /// Settings with the draft in them by `put`, as one step.
    void take(const QString& intent, const campaign::Point& then, const QString& words,
              const std::function<void(campaign::Settings&)>& put);
    bool isOfAirOnly() const;
    Document& document_;
    QDoubleSpinBox *speed_, *alpha_, *beta_, *altitude_, *offset_, *reynolds_, *mach_;
    QLabel *gas_, *q_;
    QPushButton *add_, *change_, *leave_;
    std::optional<Draft> draft_;
    bool showing_ = false;
};

}  // namespace cvane::desk
