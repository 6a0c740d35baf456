"""What the systems' query commands print, made up for the purpose: new, old, localised and broken."""

WINDOWS_NEW = {
    "Win32_OperatingSystem": '{"Version":"10.0.26100","SystemDrive":"C:"}',
    "Win32_Processor": '{"Name":"Caddis C9 ","NumberOfCores":12,"NumberOfLogicalProcessors":20}',
    "Win32_ComputerSystem": '{"TotalPhysicalMemory":68501159936}',
    "Win32_VideoController": '[{"Name":"Hadrel H60","AdapterRAM":4293918720,"DriverVersion":"31.4.2","DriverDate":"2025-08-02T00:00:00Z","ConfigManagerErrorCode":0,"CurrentHorizontalResolution":3840,"CurrentVerticalResolution":2160,"CurrentRefreshRate":60},{"Name":"Caddis i3","AdapterRAM":1073741824,"DriverVersion":"8.0.11","DriverDate":null,"ConfigManagerErrorCode":22}]',
    "Win32_LogicalDisk": '[{"DeviceID":"C:","DriveType":3,"Size":500000000000,"FreeSpace":41234567890},{"DeviceID":"E:","DriveType":2,"Size":null,"FreeSpace":null},{"DeviceID":"Z:","DriveType":4,"Size":96000000000000,"FreeSpace":21000000000000},{"DeviceID":"D:","DriveType":5}]',
    "Win32_SoundDevice": '{"Name":"Desk sound"}',
    "Get-Partition": '{"Letter":"C","Media":"SSD","Bus":"NVMe"}',
    "powercfg": "Power Scheme GUID: 8c5e7fda-e8bf-4a96-9a85-a6e23a8c635c  (High performance)",
}
# An older shell: numbers as text, its own dates, a mark before the text, no disk command, warnings first.
WINDOWS_OLD = {
    "Win32_OperatingSystem": '\ufeff{"Version":"6.3.9600","SystemDrive":"c:"}',
    "Win32_Processor": '[{"Name":"Caddis C5","NumberOfCores":"6","NumberOfLogicalProcessors":"12"},{"Name":"Caddis C5","NumberOfCores":"6","NumberOfLogicalProcessors":"12"}]',
    "Win32_ComputerSystem": '{"TotalPhysicalMemory":"17179869184"}',
    "Win32_VideoController": 'WARNING: the module is out of date\r\n{"Name":"Hadrel H40","AdapterRAM":"2147483648","DriverVersion":"31.4.2","DriverDate":{"value":"/Date(1754092800000)/"}}',
    "Win32_LogicalDisk": '{"DeviceID":"C:","DriveType":"3","Size":"250000000000","FreeSpace":"36000000000"}',
    "Win32_SoundDevice": "",
    "powercfg": "GUID des Energieschemas: 381b4222-f694-41f0-9685-ff5bb260df2e  (Ausbalanciert)\r\n",
}
WINDOWS_BROKEN = {
    "Win32_OperatingSystem": '{"Version":"10.0.26100"',
    "Win32_Processor": "[]",
    "Win32_ComputerSystem": "Zugriff verweigert",
    "Win32_VideoController": '{"Name":["odd"],"AdapterRAM":-5,"DriverDate":"soon"}',
    "Win32_LogicalDisk": "null",
    "Win32_SoundDevice": "[1,2]",
    "Get-Partition": "{}",
    "powercfg": "GUID: 11111111-2222-3333-4444-555555555555 (mine)",
}
MAC_NEW = {
    "sw_vers": "15.1\n",
    "pmset": "System-wide power settings:\nCurrently in use:\n powermode            2\n sleep 0\n",
    "system_profiler": """{"SPHardwareDataType":[{"chip_type":"Caddis M2","number_processors":"proc 12:8:4","physical_memory":"64 GB"}],
      "SPDisplaysDataType":[{"_name":"kHW","sppci_model":"Caddis M2","sppci_bus":"spdisplays_builtin","spdisplays_ndrvs":[
        {"_name":"Desk","_spdisplays_resolution":"3840 x 2160 @ 60.00Hz"},{"_name":"Film","_spdisplays_resolution":"4096 x 2160 @ 23.98Hz"}]}],
      "SPStorageDataType":[{"mount_point":"/","size_in_bytes":994662584320,"free_space_in_bytes":412345678901,"writable":"no",
        "physical_drive":{"is_internal_disk":"yes","medium_type":"ssd","protocol":"Inner Fabric"}},
        {"mount_point":"/Volumes/Cove","size_in_bytes":1000000000000,"free_space_in_bytes":640000000000,"writable":"yes",
        "physical_drive":{"is_internal_disk":"no","medium_type":"rotational","protocol":"USB"}},{"_name":"unmounted"}],
      "SPAudioDataType":[{"_items":[{"_name":"Desk mic","coreaudio_device_input":1},{"_name":"Room monitors","coreaudio_device_output":2}]}]}""",
}
MAC_OLD = {
    "sw_vers": "10.14.6\n",
    "pmset": " lowpowermode         1\n",
    "system_profiler": """{"SPHardwareDataType":[{"cpu_type":"Caddis C7","number_processors":8,"physical_memory":"32 Go"}],
      "SPDisplaysDataType":[{"_name":"Ostrane R7","sppci_bus":"spdisplays_pcie_device","spdisplays_vram":"12 GB"}],
      "SPStorageDataType":[],"SPAudioDataType":[{"_items":null}]}""",
}
MAC_BROKEN = {"sw_vers": "", "pmset": "pmset: mode inconnu\n", "system_profiler": '{"SPHardwareDataType":[]'}
