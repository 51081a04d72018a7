/** Ready-made texts for machines that send; `origin` is how this page reaches the server. */
export interface Sending {
  readonly origin: string;
  readonly token: string;
  /** Of the server's key, where nobody but this house believes its certificate. */
  readonly pin: string | null;
}

/** How curl is told to believe the server this once: by its key. */
const trusting = ({ pin }: Sending, quote: string) =>
  pin === null ? "" : ` --insecure --pinnedpubkey ${quote}${pin}${quote}`;

export function linuxCommand(sending: Sending): string {
  const { origin, token } = sending;
  return `curl -fsS${trusting(sending, "'")} -H 'Authorization: Bearer ${token}' ${origin}/collector/linux -o nubrel-collector && sudo sh nubrel-collector install`;
}

export function windowsCommand(sending: Sending): string {
  const { origin, token } = sending;
  return `curl.exe -fsS${trusting(sending, "")} -H "Authorization: Bearer ${token}" ${origin}/collector/windows -o nubrel-collector.bat && nubrel-collector.bat`;
}

export function relayCommand({ origin, token, pin }: Sending): string {
  return `nubrel relay ${origin} --token ${token}${pin === null ? "" : ` --pin ${pin}`}`;
}

export function curlCommand(sending: Sending): string {
  const { origin, token } = sending;
  return `echo 'backup_size_bytes{pool="archive"} 123456' | curl -fsS${trusting(sending, "'")} --data-binary @- -H 'Authorization: Bearer ${token}' -H 'Content-Type: text/plain' ${origin}/api/push/openmetrics`;
}

export function csvCommand(sending: Sending): string {
  const { origin, token } = sending;
  return `printf 'time,temperature\\n%s,21.5\\n' "$(date -u +%FT%TZ)" | curl -fsS${trusting(sending, "'")} --data-binary @- -H 'Authorization: Bearer ${token}' -H 'Content-Type: text/csv' ${origin}/api/push/csv`;
}

export function otlpSettings({ origin, token, pin }: Sending): string {
  return [
    ...(pin === null ? [] : ["OTEL_EXPORTER_OTLP_METRICS_CERTIFICATE=/path/to/nubrel-house-authority.crt"]),
    `OTEL_EXPORTER_OTLP_METRICS_ENDPOINT=${origin}/v1/metrics`,
    `OTEL_EXPORTER_OTLP_METRICS_HEADERS="Authorization=Bearer ${token}"`,
    "OTEL_EXPORTER_OTLP_METRICS_PROTOCOL=http/protobuf",
  ].join("\n");
}
