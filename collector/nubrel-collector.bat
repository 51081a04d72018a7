@echo off
rem Nubrel's collector for Windows: loops Windows' own counter tool and curl, until its window is closed or Ctrl+C.
rem Which counters are gathered is chosen on the source's page: this file says once what the machine has (typeperf -qx)
rem and fetches its list from there. Its own log is what it writes here, and log.txt in its folder.
setlocal
set "ADDRESS=@ADDRESS@"
set "TOKEN=@TOKEN@"
set "INTERVAL=@INTERVAL@"
set "PIN=@PIN@"
set "FOLDER=%TEMP%\nubrel-collector"
if not exist "%FOLDER%" mkdir "%FOLDER%"
where curl.exe >nul 2>nul || (echo curl.exe is missing; it comes with Windows 10 of 2018 and later. & exit /b 1)
rem What stands on a command line is seen by every program: the token stands in a file of yours.
> "%FOLDER%\curl.txt" echo header = "Authorization: Bearer %TOKEN%"
>> "%FOLDER%\curl.txt" echo user-agent = "nubrel-collector/@VERSION@"
set "TRUST="
if not "%PIN%"=="" set "TRUST=--insecure --pinnedpubkey %PIN%"
set "CURL=curl.exe %TRUST% --silent --show-error --max-time 60 --config "%FOLDER%\curl.txt""
set "LAST="
set /a ROUND=0
(
echo \Processor^(*^)\%% Processor Time
echo \System\Processor Queue Length
echo \System\System Up Time
echo \Memory\Available Bytes
echo \Memory\Committed Bytes
echo \Memory\Pages/sec
echo \PhysicalDisk^(*^)\Disk Read Bytes/sec
echo \PhysicalDisk^(*^)\Disk Write Bytes/sec
echo \PhysicalDisk^(*^)\Current Disk Queue Length
echo \LogicalDisk^(*^)\%% Free Space
echo \LogicalDisk^(*^)\Free Megabytes
echo \Network Interface^(*^)\Bytes Received/sec
echo \Network Interface^(*^)\Bytes Sent/sec
) > "%FOLDER%\list.txt"
echo Gathering every %INTERVAL% s for %ADDRESS%. Close this window to end it.
rem Written by itself: what it prints is in another code page than what it reads.
typeperf -qx -o "%FOLDER%\told.txt" -y >nul 2>nul
call :tell
:loop
set /a TURN=ROUND %% 10
if %TURN%==0 call :fetch
set /a ROUND+=1
rem Four readings a file: the first of a rate is empty in a new file.
typeperf -cf "%FOLDER%\list.txt" -si %INTERVAL% -sc 4 -f CSV -y -o "%FOLDER%\new.csv" >nul
if errorlevel 1 (call :say "typeperf failed: look at %FOLDER%\list.txt, or choose other counters on the source's page" & timeout /t %INTERVAL% >nul & goto loop)
move /y "%FOLDER%\new.csv" "%FOLDER%\wait-%RANDOM%%RANDOM%.csv" >nul
for /f "delims=" %%F in ('dir /b /od "%FOLDER%\wait-*.csv" 2^>nul') do call :post "%FOLDER%\%%F"
rem What waits is bounded: beyond 2000 files the oldest go.
for /f "skip=2000 delims=" %%F in ('dir /b /o-d "%FOLDER%\wait-*.csv" 2^>nul') do del "%FOLDER%\%%F"
goto loop

rem Says what this machine can count; while the server is away it is said again with the next list.
:tell
%CURL% --fail -T "%FOLDER%\told.txt" "%ADDRESS%/api/windows-counters" -o nul 2> "%FOLDER%\error.txt" && (if exist "%FOLDER%\told.txt" del "%FOLDER%\told.txt")
exit /b 0

:fetch
if exist "%FOLDER%\told.txt" call :tell
%CURL% --fail "%ADDRESS%/api/windows-counters" -o "%FOLDER%\list.new" 2> "%FOLDER%\error.txt" && move /y "%FOLDER%\list.new" "%FOLDER%\list.txt" >nul
exit /b 0

rem Sends one file. What was taken is deleted, what may be taken later stays, what is refused for good is laid aside with its reason.
:post
%CURL% --data-binary "@%~1" -H "Content-Type: text/csv" "%ADDRESS%/api/push/csv" -o "%FOLDER%\answer.txt" -w "%%{http_code}\n" > "%FOLDER%\code.txt" 2> "%FOLDER%\error.txt"
set "CODE=000"
set /p CODE=<"%FOLDER%\code.txt"
if "%CODE:~0,1%"=="2" (
  del "%~1"
  set "LAST="
  exit /b 0
)
set "WHY="
if "%CODE%"=="000" goto kept
set /p WHY=<"%FOLDER%\answer.txt"
set "LATER="
for %%C in (401 403 404 405 407 408 409 421 425 429) do if "%CODE%"=="%%C" set "LATER=1"
if not "%LATER%"=="" goto kept
if "%CODE:~0,1%"=="4" (
  move /y "%~1" "%FOLDER%\refused.csv" >nul
  call :why "refused for good (%CODE%), laid aside as refused.csv"
  exit /b 0
)
:kept
if "%CODE%"=="000" set /p WHY=<"%FOLDER%\error.txt"
call :why "not taken now (%CODE%), it is kept"
exit /b 0

rem The same trouble is told once. What a server says may hold any sign: it is written with late expansion.
:why
if "%~1"=="%LAST%" exit /b 0
set "LAST=%~1"
setlocal enabledelayedexpansion
echo %~1: !WHY!
>> "%FOLDER%\log.txt" echo %DATE% %TIME% %~1: !WHY!
endlocal
exit /b 0

:say
if "%~1"=="%LAST%" exit /b 0
set "LAST=%~1"
echo %~1
>> "%FOLDER%\log.txt" echo %DATE% %TIME% %~1
exit /b 0
