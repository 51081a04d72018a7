/** Ready-made texts for machines that send; `origin` is how this page reaches the server. */
export interface Sending {
  readonly origin: string;
  readonly token: string;
}

export function linuxCommand({ origin, token }: Sending): string {
  return `curl -fsS -H 'Authorization: Bearer ${token}' ${origin}/collector/linux -o nubrel-collector && sudo sh nubrel-collector install`;
}

export function windowsCommand({ origin, token }: Sending): string {
  return `curl.exe -fsS -H "Authorization: Bearer ${token}" ${origin}/collector/windows -o nubrel-collector.bat && nubrel-collector.bat`;
}

export function curlCommand({ origin, token }: Sending): string {
  return `echo 'backup_size_bytes{pool="archive"} 123456' | curl -fsS --data-binary @- -H 'Authorization: Bearer ${token}' -H 'Content-Type: text/plain' ${origin}/api/push/openmetrics`;
}

export function csvCommand({ origin, token }: Sending): string {
  return `printf 'time,temperature\\n%s,21.5\\n' "$(date -u +%FT%TZ)" | curl -fsS --data-binary @- -H 'Authorization: Bearer ${token}' -H 'Content-Type: text/csv' ${origin}/api/push/csv`;
}

export function otlpSettings({ origin, token }: Sending): string {
  return [`OTEL_EXPORTER_OTLP_METRICS_ENDPOINT=${origin}/v1/metrics`, `OTEL_EXPORTER_OTLP_METRICS_HEADERS="Authorization=Bearer ${token}"`, "OTEL_EXPORTER_OTLP_METRICS_PROTOCOL=http/protobuf"].join("\n");
}
