#pragma once
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>
#include <QSlider>
#include <QTimer>

#include "desk/model/document.h"
#include "desk/model/wing_work.h"
#include "desk/plot.h"
#include "desk/scene_items.h"
#include "view/loading_shape.h"

namespace cvane::desk {

/// Which computed angle is looked at, and how: in plots, or in 3D, where the aircraft turns in its wind with its load
/// on it. Played through, and written as pictures or a film.
class LoadingView : public QWidget {
    Q_OBJECT
  public:
    LoadingView(Document& document, Middle& middle, SceneItems& scene);
    ~LoadingView() override;
    /// What there is to be looked at now; null: nothing.
    void take(std::shared_ptr<const WingWork::Shown> shown);
    /// Number of the angle that is looked at.
    std::size_t angle() const { return static_cast<std::size_t>(slider_->value()); }
    void choose(std::size_t angle) { slider_->setValue(static_cast<int>(angle)); }
    bool inSpace() const { return look_->currentIndex() == 1; }
    /// Into the 3D view.
    void draw();
    /// A picture an angle; joined to a film where the name says so.
    void save(const QString& film);
    bool joining() const { return job_.running(); }

    /// Angle of the lift that is wanted [rad]; nothing: none of those that were computed come to it.
    std::optional<double> wantedAngle() const;

  signals:
    void scheduled(double alpha_deg);  ///< the wanted lift's angle shall be run in the field
    void moved();                      ///< another angle is looked at
    void lookChanged();                ///< in plots, or in 3D

  private:
    void play();
    void askAndSave();
    void sayWanted();
    void drawBodies(const Mat3& turn, const Vec3& centre);
    void drawLoading();
    Document& document_;
    Middle& middle_;
    SceneItems& scene_;
    std::shared_ptr<const WingWork::Shown> shown_;
    view::LoadingScale scale_;  ///< of all its angles
    QComboBox* look_;
    QSlider* slider_;
    QLabel* words_;
    QPushButton *play_, *save_, *schedule_;
    QDoubleSpinBox* wanted_;
    QLabel* wantedWords_;
    QTimer timer_;
    QThreadPool pool_;
    Job<QString> job_{*this, pool_};
};

}  // namespace cvane::desk
