"""A stand-in for UDisks2 on a bus of the test's own, for what a loop device cannot do: eject, switch off, refuse.

Every /dev/NAME is known, as the one medium of a drive. In the folder that is given, the file "mode" says how it
behaves, word by word: "ejectable", "switchable", "refuse" (by policy), "busy". The file "calls" takes what was asked.
"""
import os
import sys

import dbus
import dbus.service
from dbus.mainloop.glib import DBusGMainLoop
from gi.repository import GLib

ROOT = "/org/freedesktop/UDisks2"
ERROR = "org.freedesktop.UDisks2.Error."
folder = sys.argv[1]


def modes():
    try:
        with open(os.path.join(folder, "mode")) as file:
            return file.read().split()
    except OSError:
        return []


def note(*words):
    with open(os.path.join(folder, "calls"), "a") as file:
        print(*words, file=file)


def refuse_if_told():
    if "refuse" in modes():
        raise dbus.DBusException("Not authorized to perform operation", name=ERROR + "NotAuthorizedCanObtain")
    if "busy" in modes():
        raise dbus.DBusException("Device is busy", name=ERROR + "DeviceBusy")


class StandIn(dbus.service.FallbackObject):
    @dbus.service.method("org.freedesktop.UDisks2.Manager", in_signature="a{sv}a{sv}", out_signature="ao")
    def ResolveDevice(self, spec, _options):
        return [ROOT + "/block_devices/" + os.path.basename(spec["path"])]

    @dbus.service.method("org.freedesktop.DBus.Properties", in_signature="s", out_signature="a{sv}", path_keyword="path")
    def GetAll(self, interface, path=None):
        name = os.path.basename(path)
        if interface.endswith(".Block"):
            return {"Drive": dbus.ObjectPath(ROOT + "/drives/" + name)}
        if interface.endswith(".Drive"):
            return {"Vendor": "Mill", "Model": "Reader", "Serial": "0017", "ConnectionBus": "usb", "Media": "flash_sd",
                    "Ejectable": "ejectable" in modes(), "CanPowerOff": "switchable" in modes()}
        return {"Version": "stand-in"}

    @dbus.service.method("org.freedesktop.UDisks2.Block", in_signature="sa{sv}", out_signature="h", path_keyword="path")
    def OpenDevice(self, mode, _options, path=None):
        note("open", mode)
        refuse_if_told()
        # "dishonest" hands out what could be written to, whatever was asked for.
        flags = os.O_RDWR if "dishonest" in modes() else os.O_RDONLY
        descriptor = os.open("/dev/" + os.path.basename(path), flags)
        try:
            return dbus.types.UnixFd(descriptor)
        finally:
            os.close(descriptor)

    @dbus.service.method("org.freedesktop.UDisks2.Filesystem", in_signature="a{sv}")
    def Unmount(self, _options):
        note("unmount")
        refuse_if_told()

    @dbus.service.method("org.freedesktop.UDisks2.Drive", in_signature="a{sv}")
    def Eject(self, _options):
        note("eject")
        refuse_if_told()

    @dbus.service.method("org.freedesktop.UDisks2.Drive", in_signature="a{sv}")
    def PowerOff(self, _options):
        note("power off")
        refuse_if_told()


DBusGMainLoop(set_as_default=True)
bus = dbus.SystemBus()
name = dbus.service.BusName("org.freedesktop.UDisks2", bus)
StandIn(bus, ROOT)
GLib.MainLoop().run()
