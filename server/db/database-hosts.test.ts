import { expect, test } from "vitest";
import { hostsOf } from "./database-hosts.ts";

// Addresses as PostgreSQL's manual has them ("34.1.1.2. Connection URIs").
test.each([
  ["postgres://nubrel:pw@db.example:5432/nubrel", ["postgres://nubrel:pw@db.example:5432/nubrel"]],
  [
    "postgresql://one:123,two:456/somedb?application_name=a",
    ["postgresql://one:123/somedb?application_name=a", "postgresql://two:456/somedb?application_name=a"],
  ],
  [
    "postgres://u:p%40q@[2001:db8::1]:5432,[2001:db8::2]:5433/d",
    ["postgres://u:p%40q@[2001:db8::1]:5432/d", "postgres://u:p%40q@[2001:db8::2]:5433/d"],
  ],
  ["postgres://u:p@a,b", ["postgres://u:p@a", "postgres://u:p@b"]],
])("%s", (url, hosts) => {
  expect(hostsOf(url)).toEqual(hosts);
});

test.each([
  "",
  "db.example",
  "mysql://a/b",
  "postgres://",
  "postgres://u:p@a:5432,:5432/d",
  "postgres://u:p@a:99999/d",
  "postgres://u:p@a,,b/d",
])("%s is none", (url) => {
  expect(hostsOf(url)).toBeUndefined();
});
