#pragma once
#include <QBoxLayout>
#include <QPushButton>
#include <QString>
#include <functional>

#include "wing/aircraft.h"

namespace cvane::desk {

/// Changes the aircraft as one step of undo.
using EditAircraft = std::function<void(const QString& intent, const std::function<void(wing::Aircraft&)>& edit)>;

/// The unit in which lengths are shown.
struct ShownLength {
    double inSI = 1.0;
    QString name;  ///< "m"
};

/// A button of a row of them, as narrow as its words allow.
QPushButton* rowButton(QWidget* of, QBoxLayout* row, const QString& words, const char* name, const QString& tip,
                       const std::function<void()>& does);
/// "flap", or "flap 2" where there is one.
std::string freeName(const std::string& wanted, const std::function<bool(const std::string&)>& taken);
/// The same among the surfaces, bodies and propellers of an aircraft, which share their names.
std::string freePartName(const std::string& wanted, const wing::Aircraft& aircraft);

}  // namespace cvane::desk
