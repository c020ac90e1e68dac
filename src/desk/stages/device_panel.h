#pragma once
#include "desk/model/document.h"
#include "desk/stages/entry_list.h"

namespace cvane::desk {

/// List of what turns, roughens, pushes or brakes in the tunnel, and the values of the chosen one, edited in place.
class DevicePanel : public EntryList {
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
    campaign::Devices shown_;
    int shownRow_ = -1;
};

}  // namespace cvane::desk
