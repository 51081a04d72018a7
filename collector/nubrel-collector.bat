@echo off
rem Nubrel's collector for Windows: loops Windows' own counter tool and curl, until its window is closed or Ctrl+C.
rem The counters stand below, one a line; take out what you do not want, add what `typeperf -q` lists.
setlocal
set "ADDRESS=@ADDRESS@"
set "TOKEN=@TOKEN@"
set "INTERVAL=@INTERVAL@"
set "PIN=@PIN@"
set "FOLDER=%TEMP%\nubrel-collector"
if not exist "%FOLDER%" mkdir "%FOLDER%"
where curl.exe >nul 2>nul || (echo curl.exe is missing; it comes with Windows 10 of 2018 and later. & exit /b 1)
(
echo \Processor^(*^)\%% Processor Time
echo \System\Processor Queue Length
echo \System\System Up Time
echo \Memory\Available Bytes
echo \Memory\Committed Bytes
echo \Memory\Pages/sec
echo \PhysicalDisk^(*^)\Disk Read Bytes/sec
echo \PhysicalDisk^(*^)\Disk Write Bytes/sec
echo \PhysicalDisk^(*^)\Avg. Disk Queue Length
echo \LogicalDisk^(*^)\%% Free Space
echo \LogicalDisk^(*^)\Free Megabytes
echo \Network Interface^(*^)\Bytes Received/sec
echo \Network Interface^(*^)\Bytes Sent/sec
) > "%FOLDER%\counters.txt"
rem What stands on a command line is seen by every program: the token stands in a file of yours.
> "%FOLDER%\curl.txt" echo header = "Authorization: Bearer %TOKEN%"
set "TRUST="
if not "%PIN%"=="" set "TRUST=--insecure --pinnedpubkey %PIN%"
echo Gathering every %INTERVAL% s for %ADDRESS%. Close this window to end it.
:loop
rem Four readings a file: the first of a rate is empty in a new file.
typeperf -cf "%FOLDER%\counters.txt" -si %INTERVAL% -sc 4 -f CSV -y -o "%FOLDER%\new.csv" >nul
if errorlevel 1 (echo typeperf failed; look at %FOLDER%\counters.txt & timeout /t %INTERVAL% >nul & goto loop)
move /y "%FOLDER%\new.csv" "%FOLDER%\wait-%RANDOM%%RANDOM%.csv" >nul
for %%F in ("%FOLDER%\wait-*.csv") do (
  curl.exe %TRUST% --silent --show-error --fail --max-time 20 --config "%FOLDER%\curl.txt" --data-binary "@%%F" -H "Content-Type: text/csv" "%ADDRESS%/api/push/csv" -o nul && del "%%F"
)
rem What waits is bounded: beyond 2000 files the oldest go.
for /f "skip=2000 delims=" %%F in ('dir /b /o-d "%FOLDER%\wait-*.csv" 2^>nul') do del "%FOLDER%\%%F"
goto loop
