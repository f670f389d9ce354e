#pragma once

#include <QWidget> // first: Qt 6.4's moc cannot read <compare> before it

#include "board/sketch/sketch.h"

#include <QImage>
#include <filesystem>
#include <map>

class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;

namespace ustor {

class SketchCanvas;

/// A board without any file: photos are laid flat by four corners and a known length, parts stamped with one
/// key each, nets made from beeps. Every change is on disk at once and can be undone.
class SketchPage : public QWidget {
    Q_OBJECT
  public:
    explicit SketchPage(QWidget* parent = nullptr);
    /// A sketch in a folder: the one that lies there, or a new one.
    void open(const std::filesystem::path& folder, const QString& name);

    void addPhoto(Side side, const QString& file);
    void clickCorner(PixelPoint p); ///< from the upper left clockwise
    /// "62" is the width of the clicked rectangle in mm; with two marks it is their distance; "1206" is the
    /// length of such a case.
    void setLength(const QString& typed);
    void chooseClass(PartClass partClass);
    void chooseCase(const QString& code);
    void turnStamp();
    void stampAt(BoardPoint at);
    void pickPad(const QString& place);
    void answer(bool connected);       ///< for the two picked pads, else for the beep that is proposed
    void nameNet(const QString& name); ///< of the picked pad
    void undo();
    void redo();
    void turnOver();
    const Sketch& sketch() const { return m_sketch; }
    QString proposedA() const { return m_proposedA; }
    QString proposedB() const { return m_proposedB; }
    SketchCanvas& canvas() const { return *m_canvas; }

  signals:
    void caseWanted(const QString& boardFile, const QString& title);
    void leaveWanted();

  protected:
    void keyPressEvent(QKeyEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

  private:
    void layOut();
    void change(const Sketch& next); ///< a step that can be undone
    void save();
    void show();
    void propose();
    void choosePhoto(Side side);
    void startCase();
    void say(const QString& words);
    QImage photoOf(Side side);

    std::filesystem::path m_folder;
    Sketch m_sketch;
    std::vector<Sketch> m_before, m_after; ///< for undo and redo
    Side m_side = Side::Top;
    struct Corners {
        Side side = Side::Top;
        std::string file;
        std::vector<PixelPoint> clicked;
    };
    std::optional<Corners> m_corners; ///< a photo that is being laid flat
    std::map<std::string, QImage> m_images;
    std::vector<BoardPoint> m_marks;
    bool m_marking = false;
    std::vector<std::string> m_picked;
    PartClass m_class = PartClass::CeramicCapacitor;
    QString m_case = "0402";
    double m_turn_deg = 0;
    QString m_proposedA, m_proposedB;
    SketchCanvas* m_canvas;
    QLabel *m_step, *m_stamp, *m_beep, *m_clash, *m_said, *m_counts;
    QLineEdit *m_length, *m_name;
};

} // namespace ustor
