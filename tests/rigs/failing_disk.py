# An nbdkit plugin: an image in which some ranges cannot be read. Parameters: image=FILE bad=OFFSET+LENGTH,...
import errno
import io
import nbdkit

API_VERSION = 2
image = None
bad = []


def config(key, value):
    global image, bad
    if key == "image":
        image = io.open(value, "rb", buffering=0)
    elif key == "bad":
        bad = [tuple(int(part) for part in item.split("+")) for item in value.split(",")]


def open(readonly):
    return 1


def get_size(handle):
    return image.seek(0, 2)


def pread(handle, buf, offset, flags):
    for start, length in bad:
        if offset < start + length and start < offset + len(buf):
            nbdkit.set_error(errno.EIO)
            raise RuntimeError("bad sector")
    image.seek(offset)
    data = image.read(len(buf))
    buf[: len(data)] = data
