# Registers the bench as a task that starts with Windows. Run it once, in a console with an administrator's rights:
#   powershell -File nomothet-bench.ps1 -Server https://the.server -Token THE_TOKEN
param(
    [Parameter(Mandatory)] [string] $Server,
    [Parameter(Mandatory)] [string] $Token,
    [string] $Folder = "C:\Nomothet"
)
$ErrorActionPreference = "Stop"
# The token stands in a file that only the system account and administrators read.
$file = Join-Path $Folder "bench.cmd"
@"
@echo off
set NOMOTHET_BENCH_TOKEN=$Token
"$Folder\venv\Scripts\nomothet.exe" bench --server $Server --spool "$Folder\spool"
"@ | Set-Content -Encoding ascii $file
icacls $file /inheritance:r /grant "SYSTEM:R" "BUILTIN\Administrators:F" | Out-Null
$action = New-ScheduledTaskAction -Execute "cmd.exe" -Argument "/c `"$file`"" -WorkingDirectory $Folder
$trigger = New-ScheduledTaskTrigger -AtStartup
$settings = New-ScheduledTaskSettingsSet -RestartCount 999 -RestartInterval (New-TimeSpan -Minutes 1) `
    -ExecutionTimeLimit ([TimeSpan]::Zero) -AllowStartIfOnBatteries -DontStopIfGoingOnBatteries
Register-ScheduledTask -TaskName "Nomothet bench" -Action $action -Trigger $trigger -Settings $settings -User "SYSTEM" -Force
