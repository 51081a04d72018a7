/** Whether a name or an address means the machine itself (RFC 1122 §3.2.1.3, RFC 4291 §2.5.3, RFC 6761 §6.3). */
export function isLoopback(host: string): boolean {
  return /^(::ffff:)?127\.\d+\.\d+\.\d+$|^::1$|^\[::1\]$|^localhost$|\.localhost$/i.test(host);
}
