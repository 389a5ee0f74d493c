// A real block device over an image file, with a node of its own. Needs root; attached read-only unless asked
// otherwise.
#pragma once

#include <QString>

namespace dreskel::test {

class LoopDevice {
  public:
    explicit LoopDevice(const QString& image, bool writable = false, int number = 0);
    ~LoopDevice();
    LoopDevice(const LoopDevice&) = delete;
    LoopDevice& operator=(const LoopDevice&) = delete;

    static bool possible();  // root, and a kernel with loop devices
    bool attached() const { return attached_; }
    const QString& path() const { return path_; }
    void detach();

  private:
    QString path_;
    bool attached_ = false;
};

}  // namespace dreskel::test
