#pragma once
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QWidget>
#include <functional>

#include "desk/model/document.h"

namespace cvane::desk {

/// What the tunnel is filled with: the gas, its static pressure and temperature where they are not those of the
/// standard atmosphere, and what the selected point's stream has in total.
class GasPanel : public QWidget {
    Q_OBJECT
  public:
    explicit GasPanel(Document& document);

  private:
    void show();
    void take(const QString& intent, const std::function<void(campaign::AirSettings&)>& how);
    QLineEdit* line(const char* name, const QString& tip, std::optional<double> campaign::AirSettings::*which);
    QString wordsOfStream() const;

    Document& document_;
    QComboBox* gas_;
    QLineEdit *pressure_, *temperature_;
    QLabel* stream_;
};

}  // namespace cvane::desk
