#pragma once
#include <QFormLayout>
#include <QListWidget>
#include <QWidget>

#include "desk/model/document.h"

namespace cvane::desk {

/// List of what turns, roughens, pushes or brakes in the tunnel, and the values of the chosen one, edited in place.
class DevicePanel : public QWidget {
    Q_OBJECT
  public:
    explicit DevicePanel(Document& document);

  private:
    enum class Kind { Wheel, Rough, Disc, Block };
    struct Entry {
        Kind kind;
        std::size_t index;
    };
    Entry entryAt(int row) const;
    void fill();
    void showChosen();
    void add(Kind kind);
    void remove();
    void change(const QString& intent, const std::function<void(campaign::Devices&)>& how);
    /// A line of the form: what it shows, and how a text is taken (false: does not fit).
    void line(const QString& label, const char* name, const QString& value, const QString& hint,
              const std::function<bool(campaign::Devices&, const QString&)>& take);
    QString freePart(bool forWheel) const;

    Document& document_;
    QListWidget* list_;
    QWidget* formHolder_;
    QFormLayout* form_ = nullptr;
    campaign::Devices shown_;
    int shownRow_ = -1;
};

}  // namespace cvane::desk
