#!/bin/sh
# Nubrel's collector for Linux: one file of POSIX shell. It needs sh, awk, and curl or wget; nothing is installed but itself.
#
#   sh nubrel-collector try       gathers once and prints what it would send
#   sh nubrel-collector run       gathers and sends until it is stopped
#   sh nubrel-collector install   installs itself as a service (as root)
#   sh nubrel-collector remove    ends the service and removes all of itself (as root)
#
# What cannot be sent is kept on disk, up to a bound, and sent later with its own times. Its own log is what it writes to
# standard error; as a service: journalctl -u nubrel-collector, or the file `log` in its folder.

address='@ADDRESS@'
token='@TOKEN@'
interval='@INTERVAL@'
pin='@PIN@'
# Which Nubrel handed this file out; its server tells where it has grown old.
agent='nubrel-collector/@VERSION@'

address="${NUBREL_ADDRESS:-$address}"
token="${NUBREL_TOKEN:-$token}"
interval="${NUBREL_INTERVAL:-$interval}"
proc="${NUBREL_PROC:-/proc}"
sys="${NUBREL_SYS:-/sys}"
state="${NUBREL_STATE:-/var/lib/nubrel-collector}"
most_kib="${NUBREL_SPOOL_KIB:-65536}" # what waits on disk at most
slow_every="${NUBREL_SLOW_EVERY:-6}"  # filesystems, pools and guests: every so many gatherings
drives_every="${NUBREL_DRIVES_EVERY:-240}"
place="${NUBREL_PLACE:-/usr/local/lib/nubrel-collector}"
unit=/etc/systemd/system/nubrel-collector.service
page_bytes="$(getconf PAGESIZE 2>/dev/null || echo 4096)"
umask 077
export LC_ALL=C

say() { printf 'nubrel-collector: %s\n' "$*" >&2; }
has() { command -v "$1" >/dev/null 2>&1; }
patiently() { if has timeout; then timeout 5 "$@" 2>/dev/null; else "$@" 2>/dev/null; fi; }

# The authority that has issued the server's certificate, where it is the server's own.
authority() { cat <<'PEM'
@AUTHORITY@
PEM
}

# Whether counters that begin so are wanted: all are, unless something is recorded that needs some more often.
wanted() { case " ${only:-$1} " in *" $1"*) return 0 ;; *) return 1 ;; esac; }

# Everything that the kernel tells at no cost, in one awk: names, tags and values as Nubrel gathers its own machine.
kernel() {
  disks=' '
  for d in "$sys"/block/*; do
    for f in "$d"/device/*; do [ -e "$f" ] && disks="$disks${d##*/} " && break; done
  done
  # Interfaces with a device behind them; what others carry, one of these carries as well.
  nets=' '
  for d in "$sys"/class/net/*/device; do
    [ -e "$d" ] && n=${d%/device} && nets="$nets${n##*/} "
  done
  { if wanted process_ || wanted system_process; then for f in "$proc"/[0-9]*/stat; do printf '%s\n' "$f"; done; fi; } | awk -v only="${only:-}" -v times="$state/times" -v proc="$proc" -v nets="$nets" -v disks="$disks" -v at="$1" -v ticks="$state/ticks" -v page_bytes="$page_bytes" '
    function quoted(s) { gsub(/\\/, "\\\\", s); gsub(/"/, "\\\"", s); gsub(/\n/, "\\n", s); return s }
    function number(s) { return s ~ /^-?[0-9]+(\.[0-9]+)?$/ }
    # What is no number is left out. Large ones are no text: awk would write them as 1.2e+10.
    function emit(name, tags, value, form) { if (only != "" && index(" " only " ", " " name " ") == 0) return; if (value + 0 != 0 || value ~ /^-?0/) printf "%s%s " (form == "" ? "%.0f" : form) " %s000\n", name, (tags == "" ? "" : "{" tags "}"), value, at }

    function stat_file(  f, n, i, line, cores, cpu) {
      f = proc "/stat"; cores = 0
      split("user nice system idle iowait interrupt softirq steal", mode, " ")
      while ((getline line < f) > 0) {
        n = split(line, w, /[ \t]+/)
        if (w[1] ~ /^cpu/) {
          cpu = substr(w[1], 4); if (cpu != "") cores++
          for (i = 1; i <= 8; i++) if (number(w[i + 1])) {
            if (cpu == "") emit("system_cpu_time", "mode=\"" mode[i] "\"", w[i + 1] / 100, "%.2f")
            else emit("system_cpu_core_time", "cpu=\"" cpu "\",mode=\"" mode[i] "\"", w[i + 1] / 100, "%.2f")
          }
        } else if (w[1] == "processes") emit("system_process_created", "", w[2])
        else if (w[1] == "procs_running") emit("system_process_count", "state=\"running\"", w[2])
        else if (w[1] == "procs_blocked") emit("system_process_count", "state=\"blocked\"", w[2])
      }
      close(f)
      if (cores > 0) emit("system_cpu_logical_count", "", cores)
    }
    function kib(field, name, tags) { if (field in mem) emit(name, tags, mem[field] * 1024) }
    function least(a, b) { return a < b ? a : b }
    # Used is what is not available, shared memory of it told apart; the states add up to the total.
    function memory_states(  total, free, available, used, shared, buffers) {
      total = mem["MemTotal"]; free = mem["MemFree"]
      available = least(total, ("MemAvailable" in mem) ? mem["MemAvailable"] : free + mem["Buffers"] + mem["Cached"] + mem["SReclaimable"] - mem["Shmem"])
      used = total - available; shared = least(mem["Shmem"] + 0, used); free = least(free, available); buffers = least(mem["Buffers"], available - free)
      emit("system_memory_usage", "state=\"used\"", (used - shared) * 1024); emit("system_memory_usage", "state=\"shared\"", shared * 1024)
      emit("system_memory_usage", "state=\"buffers\"", buffers * 1024); emit("system_memory_usage", "state=\"cached\"", (available - free - buffers) * 1024)
      emit("system_memory_usage", "state=\"free\"", free * 1024)
    }
    function memory(  f, line) {
      f = proc "/meminfo"
      while ((getline line < f) > 0) { split(line, w, /[: \t]+/); if (number(w[2])) mem[w[1]] = w[2] }
      close(f)
      kib("MemTotal", "system_memory_limit", ""); kib("MemAvailable", "system_memory_linux_available", "")
      kib("SReclaimable", "system_memory_linux_slab_usage", "state=\"reclaimable\""); kib("SUnreclaim", "system_memory_linux_slab_usage", "state=\"unreclaimable\"")
      kib("Active", "system_memory_linux_activity", "state=\"active\""); kib("Inactive", "system_memory_linux_activity", "state=\"inactive\"")
      kib("Shmem", "system_memory_linux_shared", ""); kib("Mapped", "system_memory_linux_mapped", ""); kib("Dirty", "system_memory_linux_dirty", "")
      kib("Writeback", "system_memory_linux_writeback", ""); kib("Committed_AS", "system_memory_linux_committed", "")
      if (("MemTotal" in mem) && ("MemFree" in mem) && ("Buffers" in mem) && ("Cached" in mem)) memory_states()
      if (mem["SwapTotal"] > 0 && ("SwapFree" in mem)) {
        emit("system_paging_usage", "state=\"used\"", (mem["SwapTotal"] - mem["SwapFree"]) * 1024); kib("SwapFree", "system_paging_usage", "state=\"free\"")
      }
    }
    function paging(  f, line) {
      f = proc "/vmstat"
      while ((getline line < f) > 0) { split(line, w, " "); if (number(w[2])) vm[w[1]] = w[2] }
      close(f)
      if ("pswpin" in vm) emit("system_paging_operations", "direction=\"in\"", vm["pswpin"])
      if ("pswpout" in vm) emit("system_paging_operations", "direction=\"out\"", vm["pswpout"])
      if ("pgpgin" in vm) emit("system_paging_io", "direction=\"in\"", vm["pgpgin"] * 1024)
      if ("pgpgout" in vm) emit("system_paging_io", "direction=\"out\"", vm["pgpgout"] * 1024)
      if (("pgfault" in vm) && ("pgmajfault" in vm)) { emit("system_paging_faults", "type=\"major\"", vm["pgmajfault"]); emit("system_paging_faults", "type=\"minor\"", vm["pgfault"] - vm["pgmajfault"]) }
    }
    function network(  f, line, name, i, t, rows, row, any) {
      f = proc "/net/dev"; rows = any = 0
      while ((getline line < f) > 0) {
        if (!match(line, /^.*:/)) continue
        name = substr(line, 1, RLENGTH - 1); gsub(/^[ \t]+|[ \t]+$/, "", name)
        if (split(substr(line, RLENGTH + 1), w, " ") < 16 || name == "lo") continue
        rows++; net_name[rows] = name; net_line[rows] = substr(line, RLENGTH + 1)
        if (index(nets, " " name " ") > 0) any = 1
      }
      for (row = 1; row <= rows; row++) {
        name = net_name[row]; split(net_line[row], w, " ")
        for (i = 0; i <= 8; i += 8) {
          t = "interface=\"" quoted(name) "\",direction=\"" (i == 0 ? "receive" : "transmit") "\""
          if (any && index(nets, " " name " ") == 0) { emit("system_network_virtual_io", t, w[i + 1]); continue }
          emit("system_network_io", t, w[i + 1]); emit("system_network_packet_count", t, w[i + 2]); emit("system_network_errors", t, w[i + 3]); emit("system_network_packet_dropped", t, w[i + 4])
        }
      }
      close(f)
    }
    function disk_rows(  f, line, n, t, i, way) {
      f = proc "/diskstats"
      while ((getline line < f) > 0) {
        sub(/^[ \t]+/, "", line); n = split(line, w, /[ \t]+/)
        if (n < 14 || index(disks, " " w[3] " ") == 0 || (w[4] == 0 && w[8] == 0)) continue
        t = "device=\"" quoted(w[3]) "\""
        for (i = 4; i <= 8; i += 4) {
          way = t ",direction=\"" (i == 4 ? "read" : "write") "\""
          emit("system_disk_operations", way, w[i]); emit("system_disk_merged", way, w[i + 1]); emit("system_disk_io", way, w[i + 2] * 512); emit("system_disk_operation_time", way, w[i + 3] / 1000, "%.3f")
        }
        emit("system_disk_pending_operations", t, w[12]); emit("system_disk_io_time", t, w[13] / 1000, "%.3f"); emit("system_disk_weighted_io_time", t, w[14] / 1000, "%.3f")
      }
      close(f)
    }
    function small(  f, line, r, part, k, n) {
      f = proc "/loadavg"; if ((getline line < f) > 0) { split(line, w, " "); emit("system_cpu_load_average", "over=\"1m\"", w[1], "%.2f"); emit("system_cpu_load_average", "over=\"5m\"", w[2], "%.2f"); emit("system_cpu_load_average", "over=\"15m\"", w[3], "%.2f") }; close(f)
      f = proc "/uptime"; if ((getline line < f) > 0) { split(line, w, " "); emit("system_uptime", "", w[1], "%.2f") }; close(f)
      split("cpu memory io", res, " ")
      for (r = 1; r <= 3; r++) {
        f = proc "/pressure/" res[r]
        while ((getline line < f) > 0) {
          n = split(line, w, " ")
          for (k = 2; k <= n; k++) if (w[k] ~ /^total=/ && (w[1] == "some" || w[1] == "full")) emit("system_pressure_stalled_time", "resource=\"" res[r] "\",who=\"" w[1] "\"", substr(w[k], 7) / 1000000, "%.6f")
        }
        close(f)
      }
    }

    # What the collector itself took since it began: its own time and that of what it has called.
    function own(  sum, n, i, k, part) {
      while ((getline line < times) > 0) { n = split(line, w, " "); for (i = 1; i <= n; i++) { k = split(w[i], part, /[ms]/); sum += part[1] * 60 + part[2] } }
      close(times)
      if (sum > 0) emit("nubrel_collector_cpu_time", "", sum, "%.2f")
    }

    BEGIN {
      own()
      while ((getline line < ticks) > 0) { split(line, w, " "); before[w[1]] = w[2] }
      close(ticks)
      stat_file(); memory(); paging(); network(); small(); disk_rows()
      sleeping = stopped = zombies = count = 0
    }
    # One line of input for each process: its stat file.
    {
      if ((getline line < $0) <= 0) { close($0); next }
      close($0)
      open = index(line, "("); if (open < 2 || !match(line, /^.*\)/)) next
      close_at = RLENGTH; name = substr(line, open + 1, close_at - open - 1); pid = substr(line, 1, open - 2)
      if (split(substr(line, close_at + 2), w, " ") < 22) next
      if (w[1] == "S" || w[1] == "I") sleeping++; else if (w[1] == "T" || w[1] == "t") stopped++; else if (w[1] == "Z") zombies++
      count++; names[count] = name; pids[count] = pid; user[count] = w[12]; system_[count] = w[13]; pages[count] = w[22]
      key = pid ":" w[20]; now[key] = w[12] + w[13]; used[count] = (key in before) ? now[key] - before[key] : -1
    }
    END {
      if (count == 0) exit
      emit("system_process_count", "state=\"sleeping\"", sleeping); emit("system_process_count", "state=\"stopped\"", stopped); emit("system_process_count", "state=\"zombies\"", zombies)
      for (round = 1; round <= 8; round++) {
        best = 0
        for (i = 1; i <= count; i++) if (used[i] > 0 && (best == 0 || used[i] > used[best] || (used[i] == used[best] && pids[i] + 0 < pids[best] + 0))) best = i
        if (best == 0) break
        t = "process=\"" quoted(names[best]) "\",pid=\"" pids[best] "\""
        emit("process_cpu_time", t ",mode=\"user\"", user[best] / 100, "%.2f"); emit("process_cpu_time", t ",mode=\"system\"", system_[best] / 100, "%.2f"); used[best] = 0
      }
      for (round = 1; round <= 8; round++) {
        best = 0
        for (i = 1; i <= count; i++) if (pages[i] > 0 && (best == 0 || pages[i] + 0 > pages[best] + 0 || (pages[i] + 0 == pages[best] + 0 && pids[i] + 0 < pids[best] + 0))) best = i
        if (best == 0) break
        emit("process_memory_usage", "process=\"" quoted(names[best]) "\",pid=\"" pids[best] "\"", pages[best] * page_bytes); pages[best] = 0
      }
      for (key in now) print key, now[key] > ticks
    }'
}

# Temperatures by the sensor's own label; of thermal zones where there is no other. Read by the shell itself.
temperatures() {
  found=
  for input in "$sys"/class/hwmon/*/temp*_input; do
    read -r t <"$input" 2>/dev/null || continue
    chip="${input%/*}"; sensor="${input##*/}"; sensor="${sensor%_input}"
    read -r name <"$chip/name" 2>/dev/null || name="${chip##*/}"
    read -r label <"$chip/${sensor}_label" 2>/dev/null || label="$sensor"
    found=yes; degrees "$name $label" "$t" "$1"
  done 2>/dev/null
  [ -n "$found" ] && return
  for zone in "$sys"/class/thermal/thermal_zone*; do
    read -r t <"$zone/temp" || continue
    read -r name <"$zone/type" || name=zone
    degrees "$name ${zone##*thermal_zone}" "$t" "$1"
  done 2>/dev/null
}
degrees() {
  case "$2" in '' | *[!0-9-]* | ?*-*) return ;; esac
  printf 'hw_temperature{sensor="%s"} %se-3 %s000\n' "$1" "$2" "$3"
}

# Energy by the kernel's power capping, of processors and of the whole platform. Its counters wrap after some minutes, so
# what they grew is added up in a file: a wrap is one lap more (kernel, Documentation/power/powercap/powercap.rst).
energy() {
  for zone in "$sys"/class/powercap/*:*; do
    case "$zone" in *-mmio:*) continue ;; esac
    read -r now <"$zone/energy_uj" && read -r range <"$zone/max_energy_range_uj" && read -r name <"$zone/name" || continue
    up="${zone%:*}"
    case "${up##*/}" in
    *:*) read -r above <"$up/name" && case "$name" in "$above"*) ;; *) name="$above $name" ;; esac ;;
    esac
    printf '%s %s %s\n' "$now" "$range" "$name"
  done 2>/dev/null | awk -v at="$1" -v kept="$state/energy" '
    BEGIN { while ((getline line < kept) > 0) if (split(line, w, " ") >= 3) { name = line; sub(/^[^ ]+ [^ ]+ /, "", name); before[name] = w[1]; sum[name] = w[2] } close(kept) }
    $1 !~ /^[0-9]+$/ || $2 !~ /^[1-9][0-9]*$/ { next }
    {
      name = $0; sub(/^[^ ]+ [^ ]+ /, "", name)
      if (name in before) sum[name] += $1 >= before[name] ? $1 - before[name] : $1 + $2 - before[name]
      else sum[name] = 0
      before[name] = $1; any = 1
      shown = name; gsub(/\\/, "\\\\", shown); gsub(/"/, "\\\"", shown)
      printf "hw_energy{zone=\"%s\"} %.6f %s000\n", shown, sum[name] / 1e6, at
    }
    END { if (any) for (name in before) printf "%.0f %.0f %s\n", before[name], sum[name], name > kept }'
}

# Filesystems on this machine's disks, each device once, by what statfs(2) says.
filesystems() {
  [ -r "$proc/self/mounts" ] || return
  awk '$3 ~ /^(ext2|ext3|ext4|xfs|btrfs|zfs|f2fs|bcachefs|jfs|reiserfs|nilfs2|ntfs|ntfs3|vfat|exfat|hfsplus)$/ && !seen[$1]++ { print $1, $2, $3 }' "$proc/self/mounts" | while read -r device mount type; do
    mount="$(printf '%b' "$(printf '%s' "$mount" | sed 's/\\\([0-7]\{3\}\)/\\0\1/g')")"
    patiently stat -f -c '%S %b %f %a %c %d' "$mount" | awk -v at="$1" -v device="$device" -v mount="$mount" -v type="$type" '
      function quoted(s) { gsub(/\\/, "\\\\", s); gsub(/"/, "\\\"", s); return s }
      function emit(name, more, value) { printf "%s{device=\"%s\",mountpoint=\"%s\",type=\"%s\"%s} %.0f %s000\n", name, quoted(device), quoted(mount), type, more, value, at }
      $2 > 0 {
        emit("system_filesystem_limit", "", $2 * $1); emit("system_filesystem_usage", ",state=\"used\"", ($2 - $3) * $1); emit("system_filesystem_usage", ",state=\"free\"", $4 * $1); emit("system_filesystem_usage", ",state=\"reserved\"", ($3 - $4) * $1)
        if ($5 > 0) { emit("system_filesystem_inodes", ",state=\"used\"", $5 - $6); emit("system_filesystem_inodes", ",state=\"free\"", $6) }
      }'
  done
}

# Containers by their control groups, of version 2 and, where that lacks a controller, of version 1: folders that are named by an id of
# 64 digits, or by the engine's payload. Their names and images are the engine's, where its socket can be asked.
containers() {
  groups="$sys/fs/cgroup"
  if [ -e "$groups/cgroup.controllers" ]; then set -- "$1" "$groups"
  else
    for c in unified memory cpuacct cpu,cpuacct cpu pids blkio; do [ -d "$groups/$c" ] && [ ! -h "$groups/$c" ] && set -- "$@" "$groups/$c"; done
  fi
  [ $# -gt 1 ] || return
  now_at="$1"; shift
  find "$@" -maxdepth 6 -type d 2>/dev/null | awk -v at="$now_at" -v names="$state/engine" -v groups="$groups" '
    BEGIN { while ((getline line < names) > 0) if (split(line, w, "\t") >= 3) { called[w[1]] = w[2]; image[w[1]] = w[3] } }
    function quoted(s) { gsub(/\\/, "\\\\", s); gsub(/"/, "\\\"", s); return s }
    # What version 2 has told, version 1 is not asked for.
    function emit(name, tags, value, form) { if (version == 1 && name in told) return; if (version == 2) told[name] = 1; printf "%s{%s%s} " (form == "" ? "%.0f" : form) " %s000\n", name, (id in called ? "container=\"" quoted(called[id]) "\",image=\"" quoted(image[id]) "\"" : "container=\"" id "\""), tags, value, at }
    {
      folder = last = $0; sub(/.*\//, "", last)
      controller = substr($0, length(groups) + 2); sub(/\/.*/, "", controller)
      if (controller !~ /^(memory|cpuacct|cpu|cpu,cpuacct|pids|blkio)$/) controller = "2"
    }
    last ~ /^lxc\.payload\./ { keep(substr(last, 13)); next }
    match(last, /[0-9a-f]+(\.scope)?$/) && RLENGTH >= 64 { keep(substr(last, RSTART, 12)) }
    function keep(name) { if (!(name in seen)) { seen[name] = 1; ids[++count] = name } if (!((name, controller) in at_)) at_[name, controller] = folder }
    END {
      for (n_id = 1; n_id <= count; n_id++) {
        id = ids[n_id]; split("", told)
        if ((id, "2") in at_) { version = 2; version_2(at_[id, "2"]) }
        version = 1; version_1()
      }
    }
    function first(path,  line) { line = ""; if ((getline line < path) <= 0) line = ""; close(path); return line }
    function table(path,  line) { split("", m); while ((getline line < path) > 0) { split(line, w, " "); m[w[1]] = w[2] } close(path) }
    function activity(  k) {
      if (("active_anon" in m) && ("active_file" in m)) emit("container_memory_activity", ",state=\"active\"", m["active_anon"] + m["active_file"])
      if (("inactive_anon" in m) && ("inactive_file" in m)) emit("container_memory_activity", ",state=\"inactive\"", m["inactive_anon"] + m["inactive_file"])
      if (("pgfault" in m) && ("pgmajfault" in m)) { emit("container_paging_faults", ",type=\"major\"", m["pgmajfault"]); emit("container_paging_faults", ",type=\"minor\"", m["pgfault"] - m["pgmajfault"]) }
    }
    function level(name, value) { if (value ~ /^[0-9]+$/) emit(name, "", value) }
    function version_2(folder,  f, line, n, i, read_, written, reads, writes) {
      f = folder "/cpu.stat"; while ((getline line < f) > 0) { split(line, w, " "); if (w[1] == "user_usec") emit("container_cpu_time", ",mode=\"user\"", w[2] / 1000000, "%.6f"); else if (w[1] == "system_usec") emit("container_cpu_time", ",mode=\"system\"", w[2] / 1000000, "%.6f"); else if (w[1] == "throttled_usec") emit("container_cpu_throttled_time", "", w[2] / 1000000, "%.6f") } close(f)
      level("container_memory_usage", first(folder "/memory.current")); level("container_memory_limit", first(folder "/memory.max"))
      table(folder "/memory.stat")
      if ("file" in m) emit("container_memory_cache", "", m["file"])
      if ("anon" in m) emit("container_memory_rss", "", m["anon"])
      activity()
      level("container_process_count", first(folder "/pids.current"))
      f = folder "/io.stat"; read_ = written = reads = writes = n = 0
      while ((getline line < f) > 0) { n = split(line, w, " "); for (i = 2; i <= n; i++) if (w[i] ~ /^rbytes=/) read_ += substr(w[i], 8); else if (w[i] ~ /^wbytes=/) written += substr(w[i], 8); else if (w[i] ~ /^rios=/) reads += substr(w[i], 6); else if (w[i] ~ /^wios=/) writes += substr(w[i], 6) }
      close(f); if (n > 0) { emit("container_disk_io", ",direction=\"read\"", read_); emit("container_disk_io", ",direction=\"write\"", written); emit("container_disk_operations", ",direction=\"read\"", reads); emit("container_disk_operations", ",direction=\"write\"", writes) }
    }
    function of(controller) { return (id, controller) in at_ ? at_[id, controller] : (controller ~ /^cpu/ && (id, "cpu,cpuacct") in at_) ? at_[id, "cpu,cpuacct"] : "" }
    function version_1(  folder) {
      if ((folder = of("cpuacct")) != "") { table(folder "/cpuacct.stat"); if ("user" in m) { emit("container_cpu_time", ",mode=\"user\"", m["user"] / 100, "%.2f"); emit("container_cpu_time", ",mode=\"system\"", m["system"] / 100, "%.2f") } }
      if ((folder = of("cpu")) != "") { table(folder "/cpu.stat"); if ("throttled_time" in m) emit("container_cpu_throttled_time", "", m["throttled_time"] / 1000000000, "%.6f") }
      if ((folder = of("memory")) != "") {
        level("container_memory_usage", first(folder "/memory.usage_in_bytes")); limit = first(folder "/memory.limit_in_bytes"); if (limit + 0 < 4611686018427387904) level("container_memory_limit", limit)
        table(folder "/memory.stat")
        if ("total_cache" in m) emit("container_memory_cache", "", m["total_cache"])
        if ("total_rss" in m) emit("container_memory_rss", "", m["total_rss"])
        activity()
      }
      if ((folder = of("pids")) != "") level("container_process_count", first(folder "/pids.current"))
      if ((folder = of("blkio")) != "") { blocks(folder, "io_service_bytes", "container_disk_io"); blocks(folder, "io_serviced", "container_disk_operations") }
    }
    function blocks(folder, file, name,  f, line, n, sum) {
      n = 0; split("", sum); f = folder "/blkio.throttle." file "_recursive"
      while ((getline line < f) > 0) { if (split(line, w, " ") == 3 && (w[2] == "Read" || w[2] == "Write")) { sum[w[2]] += w[3]; n++ } } close(f)
      if (n == 0) { f = folder "/blkio.throttle." file; while ((getline line < f) > 0) { if (split(line, w, " ") == 3 && (w[2] == "Read" || w[2] == "Write")) { sum[w[2]] += w[3]; n++ } } close(f) }
      if ("Read" in sum) emit(name, ",direction=\"read\"", sum["Read"])
      if ("Write" in sum) emit(name, ",direction=\"write\"", sum["Write"])
    }'
}

# What the engine calls its containers: id, name and image between tabs, kept until it is asked again.
engine_names() {
  has curl || return
  for socket in ${NUBREL_ENGINE:-/run/docker.sock /var/run/docker.sock /run/podman/podman.sock}; do
    [ -S "$socket" ] || continue
    patiently curl -s --max-time 4 --unix-socket "$socket" 'http://localhost/containers/json' | awk '
      { text = text $0 }
      function value(row, key,  rest) { if (!match(row, "\"" key "\":\\[?\"")) return ""; rest = substr(row, RSTART + RLENGTH); return substr(rest, 1, index(rest, "\"") - 1) }
      END { n = split(text, rows, /\{"Id":"/); for (i = 2; i <= n; i++) { name = value(rows[i], "Names"); sub(/^\//, "", name); if (name != "") print substr(rows[i], 1, 12) "\t" name "\t" value(rows[i], "Image") } }' >"$state/engine.new" && [ -s "$state/engine.new" ] && mv "$state/engine.new" "$state/engine"
    return
  done
}

# Guests of this hypervisor, as its own virtualisation library tells.
guests() {
  has virsh || return
  patiently virsh -r domstats --raw | awk -v at="$1" '
    function quoted(s) { gsub(/\\/, "\\\\", s); gsub(/"/, "\\\"", s); return s }
    function emit(name, tags, value, form) { if (value + 0 != 0 || value ~ /^0/) printf "%s{guest=\"%s\"%s} " (form == "" ? "%.0f" : form) " %s000\n", name, guest, tags, value, at }
    function flush(  i, d) {
      if (guest == "") return
      emit("guest_state_running", "", (v["state.state"] == 1) ? "1" : "0")
      if ("cpu.time" in v) emit("guest_cpu_time", "", v["cpu.time"] / 1000000000, "%.3f")
      emit("guest_cpu_count", "", v["vcpu.current"])
      if ("balloon.current" in v) emit("guest_memory_limit", "", v["balloon.current"] * 1024)
      usable = ("balloon.usable" in v) ? v["balloon.usable"] : ("balloon.unused" in v) ? v["balloon.unused"] : ""
      if (("balloon.available" in v) && usable != "" && usable + 0 <= v["balloon.available"] + 0) emit("guest_memory_usage", "", (v["balloon.available"] - usable) * 1024 "")
      if ("balloon.rss" in v) emit("guest_memory_resident", "", v["balloon.rss"] * 1024)
      for (i = 0; i < v["net.count"]; i++) { t = ",interface=\"" quoted(v["net." i ".name"]) "\",direction="; emit("guest_network_io", t "\"receive\"", v["net." i ".rx.bytes"]); emit("guest_network_io", t "\"transmit\"", v["net." i ".tx.bytes"]) }
      for (i = 0; i < v["block.count"]; i++) { t = ",device=\"" quoted(v["block." i ".name"]) "\",direction="; d = ",device=\"" quoted(v["block." i ".name"]) "\""; emit("guest_disk_usage", d, v["block." i ".allocation"]); emit("guest_disk_limit", d, v["block." i ".capacity"]); emit("guest_disk_io", t "\"read\"", v["block." i ".rd.bytes"]); emit("guest_disk_io", t "\"write\"", v["block." i ".wr.bytes"]) }
    }
    /^Domain: / { flush(); split("", v); guest = substr($0, 10); sub(/.$/, "", guest); guest = quoted(guest); next }
    { sub(/^[ \t]+/, ""); at_sign = index($0, "="); if (at_sign) v[substr($0, 1, at_sign - 1)] = substr($0, at_sign + 1) }
    END { flush() }'
}

# Software arrays, as the kernel tells them.
arrays() {
  [ -r "$proc/mdstat" ] || return
  awk -v at="$1" '
    function emit(name, tags, value, form) { printf "%s{array=\"%s\"%s} " (form == "" ? "%.0f" : form) " %s000\n", name, array, tags, value, at }
    function trouble(why, is) { emit("storage_array_trouble", ",why=\"" why "\"", is) }
    function flush() {
      if (array == "") return
      trouble("failed member", failed > 0); trouble("missing member", wanted != present); trouble("not active", !active)
      emit("storage_array_healthy", "", active && failed == 0 && wanted == present)
      if (wanted != "") { emit("storage_array_members", ",state=\"wanted\"", wanted); emit("storage_array_members", ",state=\"present\"", present) }
      if (wanted != "" || failed > 0) emit("storage_array_members", ",state=\"failed\"", failed)
      if (size != "") emit("storage_array_limit", "", size * 1024)
      emit("storage_array_sync", "", synced, "%.3f")
    }
    /^md[^ ]* : / { flush(); array = $1; active = ($3 == "active"); failed = gsub(/\(F\)/, "&"); wanted = present = size = ""; synced = 1; next }
    /^unused devices/ { flush(); array = ""; next }
    array == "" { next }
    {
      if ($2 == "blocks") size = $1
      if (match($0, /\[[0-9]+\/[0-9]+\]/)) { split(substr($0, RSTART + 1, RLENGTH - 2), w, "/"); wanted = w[1]; present = w[2] }
      if (match($0, /(resync|recovery|check|reshape|repair) *= *[0-9.]+%/)) { part = substr($0, RSTART, RLENGTH - 1); sub(/.*= */, "", part); synced = part / 100 }
    }
    END { flush() }' "$proc/mdstat"
}

pools() {
  btrfs_pools "$1"
  has zpool || return
  patiently zfs list -H -p -t filesystem,volume -o name,used,available | awk -F '\t' -v at="$1" '$2 ~ /^[0-9]+$/ { pool = $1; sub(/\/.*/, "", pool); printf "storage_dataset_usage{pool=\"%s\",dataset=\"%s\"} %.0f %s000\n", pool, $1, $2, at }'
  { patiently zpool status -p; echo; patiently zpool list -H -p -o name,size,allocated,free,health,fragmentation; } | awk -F '\t' -v at="$1" '
    function emit(name, tags, value) { printf "%s{pool=\"%s\"%s} %.0f %s000\n", name, $1, tags, value, at }
    function trouble(why, is) { emit("storage_pool_trouble", ",why=\"" why "\"", is); if (is) unwell = 1 }
    NF < 5 {
      split($0, w, " ")
      if (sub(/^ *pool: /, "")) { pool = $0; next }
      if (sub(/^ *errors: /, "")) { lost[pool] = $0 !~ /^No known data errors/; next }
      if (w[2] !~ /^[A-Z]+$/ || w[3] !~ /^[0-9]+$/ || w[4] !~ /^[0-9]+$/ || w[5] !~ /^[0-9]+$/ || w[1] == pool || w[1] ~ /^((mirror|raidz[123]?|draid[^ ]*|spare|replacing|indirect)-[0-9]+|logs|cache|spares|special|dedup)$/) next
      split("read write checksum", types, " ")
      for (i = 1; i <= 3; i++) printf "storage_device_errors{pool=\"%s\",device=\"%s\",type=\"%s\"} %.0f %s000\n", pool, w[1], types[i], w[i + 2], at
      errors[pool] += w[3] + w[4] + w[5]
      next
    }
    $2 ~ /^[0-9]+$/ { emit("storage_pool_limit", "", $2); emit("storage_pool_usage", ",state=\"used\"", $3); emit("storage_pool_usage", ",state=\"free\"", $4) }
    $5 != "" { unwell = 0; trouble("degraded", $5 == "DEGRADED"); trouble("not available", $5 != "ONLINE" && $5 != "DEGRADED"); trouble("device errors", errors[$1] > 0); trouble("lost data", lost[$1]); emit("storage_pool_healthy", "", !unwell) }
    $6 ~ /^[0-9]+%?$/ { printf "storage_pool_fragmentation{pool=\"%s\"} %.2f %s000\n", $1, $6 / 100, at }'
}

# Usable bytes: what is used counts every copy, and what is free is the lesser of what all devices and those that are there can take.
btrfs_pools() {
  has btrfs && [ -r "$proc/self/mounts" ] || return
  awk '$3 == "btrfs" && !seen[$1]++ { print $2, $4 }' "$proc/self/mounts" | while read -r mount options; do
    { patiently btrfs filesystem usage -b "$mount"; patiently btrfs device stats "$mount"; } | awk -v at="$1" -v pool="$mount" -v options=",$options," '
      function emit(name, tags, value) { printf "%s{pool=\"%s\"%s} %.0f %s000\n", name, pool, tags, value, at }
      function trouble(why, is) { emit("storage_pool_trouble", ",why=\"" why "\"", is); if (is) unwell = 1 }
      /^ *Used:/ && used == "" { used = $2 }
      /^ *Data ratio:/ { ratio = $3 }
      /^ *Device missing:/ { missing = $3 }
      /^ *Free \((estimated|statfs, df)\):/ { sub(/^.*\): */, ""); if (free == "" || $1 + 0 < free + 0) free = $1 }
      match($0, /^\[[^]]*\]\.[a-z_]+_errs/) { split(substr($0, 1, RLENGTH), w, /\[|\]\./); sub(/^\/dev\//, "", w[2]); sub(/_errs$/, "", w[3]); sub(/_io$/, "", w[3]); emit("storage_device_errors", ",device=\"" w[2] "\",type=\"" w[3] "\"", $NF); errors += $NF; rows++ }
      END {
        if (used != "" && free != "") { used = used / (ratio > 1 ? ratio : 1); emit("storage_pool_limit", "", used + free); emit("storage_pool_usage", ",state=\"used\"", used); emit("storage_pool_usage", ",state=\"free\"", free) }
        else if (!rows) exit
        trouble("missing device", missing > 0); trouble("degraded", options ~ /,degraded,/); trouble("read-only", options ~ /,ro,/); trouble("device errors", errors > 0)
        emit("storage_pool_healthy", "", !unwell)
      }'
  done
}

# Drives tell of their health, where smartctl is there and may ask; a sleeping drive is left asleep.
drives() {
  has smartctl || return
  patiently smartctl --scan | while read -r device _; do
    patiently smartctl --json=c --nocheck=standby --health --attributes "$device" | tr -d ' \n' | awk -v at="$1" -v device="${device##*/}" '
      function trouble(why, is) { printf "drive_trouble{device=\"%s\",why=\"%s\"} %d %s000\n", device, why, is, at; if (is) unwell = 1 }
      function after(pattern) { return match($0, pattern) ? substr($0, RSTART + RLENGTH) : "" }
      {
        rest = after("\"smart_status\":[{]\"passed\":"); warning = after("\"critical_warning\":")
        if (rest != "" || warning != "") {
          trouble("its own verdict", rest ~ /^false/); trouble("attribute at its threshold", $0 ~ /"when_failed":"now"/); trouble("critical warning", warning + 0 != 0)
          printf "drive_healthy{device=\"%s\"} %d %s000\n", device, !unwell, at
        }
        if ((rest = after("\"temperature\":[{]\"current\":")) != "") printf "hw_temperature{sensor=\"drive %s\"} %d %s000\n", device, rest + 0, at
        if ((rest = after("\"power_on_time\":[{]\"hours\":")) != "") printf "drive_power_on_time{device=\"%s\"} %.0f %s000\n", device, rest * 3600, at
        sectors(5, "reallocated"); sectors(197, "pending"); sectors(198, "uncorrectable")
        if ((rest = after("\"percentage_used\":")) != "") printf "drive_wear{device=\"%s\"} %.2f %s000\n", device, (rest + 0) / 100, at
        if ((rest = after("\"media_errors\":")) != "") printf "drive_media_errors{device=\"%s\"} %.0f %s000\n", device, rest + 0, at
        if ((rest = after("\"data_units_written\":")) != "") printf "drive_written{device=\"%s\"} %.0f %s000\n", device, (rest + 0) * 512000, at
      }
      function sectors(id, type,  rest) {
        if (!match($0, "[{]\"id\":" id ",")) return
        rest = substr($0, RSTART)
        if (match(rest, /"raw":[{]"value":[0-9]+/)) printf "drive_bad_sectors{device=\"%s\",type=\"%s\"} %d %s000\n", device, type, substr(rest, RSTART + 15, RLENGTH - 15), at
      }'
  done
}

gather() {
  only=
  times >"$state/times" 2>/dev/null
  kernel "$1"
  temperatures "$1"
  energy "$1"
  arrays "$1"
  [ "$(($2 % slow_every))" -eq 0 ] && engine_names
  containers "$1"
  [ "$(($2 % slow_every))" -eq 0 ] && { filesystems "$1"; guests "$1"; pools "$1"; }
  [ "$(($2 % drives_every))" -eq 0 ] && drives "$1"
}

# Only what is recorded: what is quick to tell, and of that what is wanted.
gather_only() {
  only="$2"
  if wanted system_ || wanted process_; then kernel "$1"; fi
  wanted hw_temperature && temperatures "$1"
  wanted hw_energy && energy "$1"
  wanted container_ && containers "$1"
  wanted system_filesystem && filesystems "$1"
  wanted guest_ && guests "$1"
  wanted storage_ && { arrays "$1"; pools "$1"; }
  only=
}

# How fast one processor works, when somebody asks: bytes digested by MD5 in a second of processor time. No processor has
# instructions of its own for MD5, so that this is told by its ordinary ones. It takes a second or two.
speed() {
  has md5sum && has dd || { say 'how fast this machine is cannot be measured: md5sum or dd is missing'; return; }
  (dd if=/dev/zero bs=65536 count=4096 2>/dev/null | md5sum >/dev/null; times) | awk -v at="$(date +%s)" '
    function seconds(text) { split(text, w, /[ms]/); return w[1] * 60 + w[2] }
    NR == 2 { took = seconds($1) + seconds($2); if (took > 0) printf "nubrel_collector_speed %.0f %s000\n", 65536 * 4096 / took, at }'
}

page_type='text/plain; version=0.0.4'

# Sends a file. 0: taken; 1: try again later; 2: it will never be taken. Says why in words.
post() {
  code=; : >"$state/error"; rm -f "$state/answer"
  own_authority=; authority | grep -q BEGIN && authority >"$state/authority.pem" && own_authority="$state/authority.pem"
  if has curl; then post_by_curl "$1" || return 1
  elif ! has wget; then trouble "neither curl nor wget is there"; return 1
  elif wget --version 2>/dev/null | grep -q GNU; then post_by_gnu_wget "$1" || return 1
  else post_by_small_wget "$1" || return 1; fi
  detail="$(sed -n 's/.*"detail":"\([^"]*\)".*/\1/p' "$state/answer" 2>/dev/null | head -c 300)"
  case "$code" in
    2??) calm; take_wish; take_speed_wish; return 0 ;;
    401 | 403) trouble "the token is not known at $address, or was revoked. Make a new one under Sources"; return 1 ;;
    409) trouble "this source is paused at $address"; return 1 ;;
    404 | 405 | 407 | 421) trouble "what answers at $address does not take it ($code${detail:+: $detail}). Look whether that is Nubrel's address"; return 1 ;;
    3??) trouble "$address sends on to another address ($code). Use that one"; return 1 ;;
    408 | 425 | 429) trouble "$address cannot take it now ($code)"; return 1 ;;
    4??) refusal="$code: ${detail:-no reason was given}"; return 2 ;;
    *) trouble "$address cannot take it now ($code${detail:+: $detail})"; return 1 ;;
  esac
}

# The answer says whether the machine's speed is to be measured: it is, and sent with what is gathered next.
take_speed_wish() { if grep -q '"measure":"speed"' "$state/answer" 2>/dev/null; then speed >>"$state/current"; fi; }

# The answer says whether something is recorded that needs counters more often, and for how long.
take_wish() {
  wish="$(sed -n 's/.*"gather":{"everySeconds":\([0-9]*\),"forSeconds":\([0-9]*\),"counters":"\([a-z0-9_ ]*\)".*/\1 \2 \3/p' "$state/answer" 2>/dev/null)"
  # shellcheck disable=SC2086 # numbers and names
  set -- $wish
  if [ $# -lt 2 ]; then rm -f "$state/faster"; return; fi
  pace_wished="$1"; until_wished=$(($(date +%s) + $2)); shift 2
  printf '%s %s %s\n' "$pace_wished" "$until_wished" "$*" >"$state/faster.new" && mv "$state/faster.new" "$state/faster"
}

post_by_curl() {
  body="$1"; packing=identity
  has gzip && gzip -c "$1" >"$state/packed" && body="$state/packed" packing=gzip
  set -- --silent --show-error --max-time 20 --output "$state/answer" --write-out '%{http_code}' --header "Content-Type: $page_type" --header "Content-Encoding: $packing" --user-agent "$agent" --data-binary "@$body"
  if [ -n "$own_authority" ]; then set -- "$@" --cacert "$own_authority"
  elif [ -n "$pin" ]; then set -- "$@" --insecure --pinnedpubkey "$pin"; fi
  # What stands on a command line is seen by everybody on the machine: the token goes another way.
  code="$(printf 'header = "Authorization: Bearer %s"\n' "$token" | curl --config - "$@" "$address/api/push/openmetrics" 2>"$state/error")"
  case $? in
    0) return 0 ;;
    6) no_name ;;
    7) nobody_listens ;;
    28) trouble "$address did not answer in 20 s" ;;
    35) trouble "no secure connection to $address came about: $(head -n 1 "$state/error")" ;;
    51 | 60) not_trusted ;;
    90) other_key ;;
    *) trouble "sending failed: $(head -n 1 "$state/error")" ;;
  esac
  return 1
}

# GNU's wget reads headers from a file, and tells the status and what it could not do on standard error.
post_by_gnu_wget() {
  printf 'header = Authorization: Bearer %s\n' "$token" >"$state/wgetrc"
  set -- -nv --server-response --content-on-error --max-redirect=0 --tries=1 --timeout=20 -O "$state/answer" --user-agent "$agent" --header "Content-Type: $page_type" --post-file "$1"
  if [ -n "$own_authority" ]; then set -- "$@" --ca-certificate "$own_authority"
  elif [ -n "$pin" ]; then set -- "$@" --no-check-certificate --pinnedpubkey "$pin"; fi
  WGETRC="$state/wgetrc" wget "$@" "$address/api/push/openmetrics" 2>"$state/error"
  code="$(sed -n 's/^ *HTTP\/[0-9.]* \([0-9][0-9][0-9]\).*/\1/p' "$state/error" | tail -n 1)"
  [ -z "$code" ] || return 0
  wget_trouble; return 1
}

# The small wget of routers checks no certificate, whatever it is told: over https it would hand the token to anybody.
post_by_small_wget() {
  case "$address" in https:*) trouble "the small wget of this machine checks no certificate, so nothing is sent over https. Install curl or GNU wget"; return 1 ;; esac
  if wget -O "$state/answer" -U "$agent" --header "Authorization: Bearer $token" --header "Content-Type: $page_type" --post-file "$1" "$address/api/push/openmetrics" 2>"$state/error"; then code=200; return 0; fi
  code="$(sed -n 's/.*HTTP\/[0-9.]* \([0-9][0-9][0-9]\).*/\1/p' "$state/error" | tail -n 1)"
  [ -z "$code" ] || return 0
  wget_trouble; return 1
}

wget_trouble() {
  said="$(grep -v '^ *$' "$state/error" | tail -n 3)"
  case "$said" in
    *"unable to resolve"* | *"bad address"* | *"ame or service not known"*) no_name ;;
    *refused*) nobody_listens ;;
    *"timed out"* | *"timeout"*) trouble "$address did not answer in 20 s" ;;
    *"public key does not match"* | *pinned*) other_key ;;
    *ertificate* | *self-signed* | *SSL*) not_trusted ;;
    *) trouble "sending to $address failed: $(printf '%s' "$said" | tail -n 1)" ;;
  esac
}

no_name() { trouble "no address is known for the name in $address"; }
nobody_listens() { trouble "nothing listens at $address"; }
other_key() { trouble "the certificate of $address is another than when this collector was made; fetch it anew if that is right"; }
not_trusted() {
  if grep -qi 'subject name\|SAN\|does not match\|common name\|owner does not\|no alternative' "$state/error"; then trouble "wrong name: the certificate of $address does not cover this name. Use a name that it covers, or have Nubrel cover this one (Sources, Transport)"
  elif grep -qi expired "$state/error"; then trouble "the certificate of $address has expired"
  else trouble "the certificate of $address is not trusted here: $(grep -i 'certificate\|SSL' "$state/error" | head -n 1)"; fi
}
# The same trouble is told once, and once when it has passed.
trouble() { [ "$(cat "$state/trouble" 2>/dev/null)" = "$*" ] || { say "$*; what was gathered is kept"; printf '%s\n' "$*" >"$state/trouble"; }; }
calm() { [ -e "$state/trouble" ] && say "sending works again" && rm -f "$state/trouble"; return 0; }

# Sends what waits, oldest first, some gatherings in one request. Where one is refused for good, they go one by one, so that only that one is dropped.
send_all() {
  at_once=40
  while :; do
    set -- "$state"/spool/*.page
    [ -e "$1" ] || return 0
    batch=; n=0
    for f; do batch="$batch $f"; n=$((n + 1)); [ $n -ge $at_once ] && break; done
    # shellcheck disable=SC2086 # names of ours: digits only
    cat $batch >"$state/batch"
    post "$state/batch"
    case $? in
      1) return 1 ;;
      2) if [ $n -gt 1 ]; then at_once=1; continue; fi
        say "$address refused a page for good, it is dropped ($refusal)"; mv "$state/batch" "$state/refused.page" ;;
    esac
    # shellcheck disable=SC2086
    rm -f $batch
  done
}

# Keeps the spool within its bound: the oldest go first, and that is told.
bound_spool() {
  kib="$(du -sk "$state/spool" | awk '{ print $1 }')"
  [ "$kib" -le "$most_kib" ] && return
  gone=0
  for f in "$state"/spool/*.page; do
    rm -f "$f"; gone=$((gone + 1))
    [ $((gone % 20)) -eq 0 ] && [ "$(du -sk "$state/spool" | awk '{ print $1 }')" -le $((most_kib * 9 / 10)) ] && break
  done
  say "more than $most_kib KiB wait: the oldest $gone files were dropped"
}

# The process that runs with this folder, where there is one. A number that another program has by now is none.
running() {
  read -r known 2>/dev/null <"$state/pid" || return 1
  [ "$known" != "$$" ] && tr '\0' ' ' 2>/dev/null <"/proc/$known/cmdline" | grep -q nubrel-collector && printf '%s' "$known"
}

run() {
  mkdir -p "$state/spool" || exit 1
  other="$(running)" && { say "it runs already, as process $other: this one ends"; exit 0; }
  echo $$ >"$state/pid"
  sleeper=
  trap 'kill $sender $sleeper 2>/dev/null; rm -f "$state/pid"; exit 0' INT TERM
  batch_every=$((15 / interval)); [ "$batch_every" -ge 1 ] || batch_every=1
  round=0; sender=; serial=0; pace="$interval"; wished=; last_slot=; sent_at=0; anchor=
  rm -f "$state/current" "$state/faster"
  say "gathering every $interval s for $address"
  while :; do
    now="$(date +%s)"
    if [ "$((now / interval))" != "$last_slot" ]; then
      last_slot=$((now / interval)); round=$((round + 1))
      gather "$now" $((round - 1)) >>"$state/current"
      due=no; { [ $((round % batch_every)) -eq 0 ] || [ "$round" -eq 1 ]; } && due=yes
    else
      gather_only "$now" "$wished" >>"$state/current"
      due=no; [ $((now - sent_at)) -ge 15 ] && due=yes
    fi
    if [ "$due" = yes ] && [ -s "$state/current" ]; then
      sent_at="$now"; serial=$(((serial + 1) % 1000))
      mv "$state/current" "$state/spool/$(printf '%012d%03d' "$now" "$serial").page"
      bound_spool
      if [ -z "$sender" ] || ! kill -0 "$sender" 2>/dev/null; then send_all & sender=$!; fi
    fi
    rest
  done
}

# Sleeps until the next gathering. Where it has just sent, it looks at the answer soon: it may be wanted more often.
rest() {
  now="$(date +%s)"; left=$((interval - now % interval))
  look_pace
  if [ "$pace" -eq "$interval" ] && [ -n "$sender" ] && kill -0 "$sender" 2>/dev/null && [ "$left" -gt 2 ]; then
    doze 1; look_pace
    now="$(date +%s)"; left=$((interval - now % interval))
  fi
  if [ "$pace" -eq "$interval" ]; then anchor=; doze "$left"; return; fi
  # In haste by a clock of hundredths, a little after whole seconds, so that each second is met once.
  if [ -z "$anchor" ]; then
    began="$(date +%s)"; tries=0
    while [ "$(date +%s)" = "$began" ] && [ $tries -lt 20 ]; do sleep 0.1 2>/dev/null || break; tries=$((tries + 1)); done
    hundredths; anchor=$((up + 20))
  fi
  hundredths
  left=$((pace * 100 - (up - anchor + pace * 100) % (pace * 100)))
  doze "$(printf '%d.%02d' $((left / 100)) $((left % 100)))" || doze 1
}
doze() { sleep "$1" 2>/dev/null & sleeper=$!; wait $sleeper; }
hundredths() { read -r up _ </proc/uptime; up="${up%.*}${up#*.}"; up=$((${up#0} + 0)); }

# How often it gathers: as it was told, until the end of that; as its interval has it where it was told nothing.
look_pace() {
  pace="$interval"; wished=
  read -r pace_told until_told wished_told 2>/dev/null <"$state/faster" || return 0
  now="$(date +%s)"
  if [ "$now" -ge "$until_told" ]; then rm -f "$state/faster"; return 0; fi
  [ "$pace_told" -ge 1 ] && [ "$pace_told" -lt "$interval" ] && pace="$pace_told" wished="$wished_told"
  return 0
}

install() {
  [ "$(id -u)" -eq 0 ] || { say 'installing needs root: sudo sh nubrel-collector install'; exit 1; }
  has awk || { say 'awk is missing'; exit 1; }
  has curl || has wget || { say 'curl or wget is needed'; exit 1; }
  end_all # one that was installed before runs with its old address and token
  mkdir -p "$place" "$state/spool" && cat "$0" >"$place/new" && chmod 700 "$place/new" "$state" && mv "$place/new" "$place/nubrel-collector" || exit 1
  if has systemctl && [ -d /run/systemd/system ]; then
    cat >"$unit" <<UNIT
[Unit]
Description=Gathers this machine's counters for Nubrel
After=network-online.target
Wants=network-online.target
[Service]
ExecStart=/bin/sh $place/nubrel-collector run
Restart=always
RestartSec=10
Nice=10
MemoryMax=128M
[Install]
WantedBy=multi-user.target
UNIT
    systemctl daemon-reload && systemctl enable nubrel-collector && systemctl restart nubrel-collector && say 'installed; its log: journalctl -u nubrel-collector'
  elif has crontab; then
    { crontab -l 2>/dev/null | grep -v "$place/"; printf '@reboot /bin/sh %s/nubrel-collector run 2>>%s/log\n' "$place" "$state"; } | crontab -
    start_now && say "installed; its log: $state/log"
  else
    start_now && say "started; this system has neither systemd nor cron, so it must be started again after a restart: sh $place/nubrel-collector run"
  fi
}
start_now() { (/bin/sh "$place/nubrel-collector" run >>"$state/log" 2>&1 &); }

# Ends what runs, however it was started, and takes it out of systemd and cron.
end_all() {
  if [ -e "$unit" ]; then
    systemctl disable --now nubrel-collector 2>/dev/null
    rm -f "$unit"
    systemctl daemon-reload 2>/dev/null
  fi
  has crontab && crontab -l 2>/dev/null | grep -q "$place/" && crontab -l | grep -v "$place/" | crontab -
  other="$(running)" || return 0
  kill "$other" 2>/dev/null
  for _ in 1 2 3 4 5 6 7 8 9 10; do running >/dev/null || return 0; sleep 1; done
  kill -9 "$other" 2>/dev/null
}

remove() {
  [ "$(id -u)" -eq 0 ] || { say 'removing needs root: sudo sh nubrel-collector remove'; exit 1; }
  end_all
  rm -rf "$place" "$state"
  say 'removed'
}

case "${1:-}" in
  try)
    mkdir -p "$state"
    gather "$(date +%s)" 0
    exit 0
    ;;
  run) run ;;
  install) install ;;
  remove) remove ;;
  *) sed -n '2,11s/^# \{0,1\}//p' "$0"; exit 1 ;;
esac
