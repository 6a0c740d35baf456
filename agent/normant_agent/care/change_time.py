"""When a file was changed last, in content or in what the file system knows of it; nobody can set this time back."""

import os
import sys
from pathlib import Path


def changed_ns(status: os.stat_result, path: Path) -> int:
    """Nanoseconds since 1970. Windows tells it of an open file alone: there `st_ctime` is when the file was made."""
    if sys.platform == "win32":
        return _change_time(path)
    return status.st_ctime_ns


if sys.platform == "win32":
    import ctypes
    from ctypes import wintypes

    _READ_ATTRIBUTES, _SHARED, _EXISTING = 0x80, 0x7, 3
    _AS_FOLDER_OR_LINK = 0x02000000 | 0x00200000  # FILE_FLAG_BACKUP_SEMANTICS, FILE_FLAG_OPEN_REPARSE_POINT
    _BASIC_INFO, _EPOCH = 0, 116_444_736_000_000_000  # FileBasicInfo; 1970 in units of 100 ns since 1601

    class _BasicInfo(ctypes.Structure):
        _fields_ = (
            ("created", ctypes.c_int64),
            ("accessed", ctypes.c_int64),
            ("written", ctypes.c_int64),
            ("changed", ctypes.c_int64),
            ("attributes", wintypes.DWORD),
        )

    def _change_time(path: Path) -> int:
        kernel = ctypes.WinDLL("kernel32", use_last_error=True)
        kernel.CreateFileW.restype = wintypes.HANDLE
        handle = kernel.CreateFileW(str(path), _READ_ATTRIBUTES, _SHARED, None, _EXISTING, _AS_FOLDER_OR_LINK, None)
        if handle == wintypes.HANDLE(-1).value:
            raise ctypes.WinError(ctypes.get_last_error())
        try:
            info = _BasicInfo()
            if not kernel.GetFileInformationByHandleEx(
                wintypes.HANDLE(handle), _BASIC_INFO, ctypes.byref(info), ctypes.sizeof(info)
            ):
                raise ctypes.WinError(ctypes.get_last_error())
            return (info.changed - _EPOCH) * 100
        finally:
            kernel.CloseHandle(wintypes.HANDLE(handle))
