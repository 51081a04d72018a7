/**
 * Registered names of ports that self-hosted machines speak on (IANA Service Name and Transport Protocol Port Number
 * Registry).
 */
const services: Readonly<Record<number, string>> = {
  21: "ftp",
  22: "ssh",
  23: "telnet",
  25: "smtp",
  53: "domain",
  80: "http",
  110: "pop3",
  111: "sunrpc",
  119: "nntp",
  123: "ntp",
  135: "epmap",
  139: "netbios-ssn",
  143: "imap",
  179: "bgp",
  389: "ldap",
  443: "https",
  445: "smb",
  465: "submissions",
  514: "shell",
  515: "printer",
  548: "afpovertcp",
  554: "rtsp",
  587: "submission",
  631: "ipp",
  636: "ldaps",
  853: "domain-s",
  873: "rsync",
  989: "ftps-data",
  990: "ftps",
  993: "imaps",
  995: "pop3s",
  1194: "openvpn",
  1433: "ms-sql-s",
  1883: "mqtt",
  2049: "nfs",
  3260: "iscsi-target",
  3306: "mysql",
  3389: "ms-wbt-server",
  5222: "xmpp-client",
  5269: "xmpp-server",
  5432: "postgresql",
  5672: "amqp",
  5900: "rfb",
  6379: "redis",
  8080: "http-alt",
  8883: "secure-mqtt",
};

/** The application protocol of a port, by its registered name; undefined for one that is none of these. */
export function serviceName(port: number): string | undefined {
  return services[port];
}
