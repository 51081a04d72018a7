-- Rules become documents, each severity has a limit of its own, and a line keeps where each stands.
alter table rule add column document jsonb;
update rule set document = jsonb_build_object(
  'name', name, 'reading', reading, 'watch', '{"kind": "value", "of": "last", "overSeconds": 0}'::jsonb, 'compare', compare,
  'notice', case severity when 'notice' then jsonb_build_object(case compare when 'above' then 'high' else 'low' end, limit_value) end,
  'urgent', case severity when 'urgent' then jsonb_build_object(case compare when 'above' then 'high' else 'low' end, limit_value) end,
  'everySeconds', 0, 'mustLastSeconds', must_last_seconds, 'staysRaisedSeconds', stays_raised_seconds, 'noData', 'hold', 'marginSeconds', null, 'place', null, 'advice', '');

alter table rule_line add column state jsonb, add column tags jsonb not null default '{}';
update rule_line set state = jsonb_build_object(
  'notice', case rule.severity when 'notice' then jsonb_build_object('mode', rule_line.mode, 'sinceMs', rule_line.since_ms, 'open', rule_line.incident_id is not null) end,
  'urgent', case rule.severity when 'urgent' then jsonb_build_object('mode', rule_line.mode, 'sinceMs', rule_line.since_ms, 'open', rule_line.incident_id is not null) end)
  from rule where rule.id = rule_line.rule_id;
alter table rule_line alter column state set not null, drop column mode, drop column since_ms;

alter table rule
  alter column document set not null,
  drop column name, drop column reading, drop column compare, drop column limit_value, drop column must_last_seconds, drop column stays_raised_seconds, drop column severity,
  add column changed_by text not null default '',
  add column changed_at timestamptz not null default now(),
  add column ready_made text; -- which one it was made of

-- The value is absent where an incident was raised for want of one.
alter table incident
  alter column value drop not null, alter column furthest drop not null,
  add column watch text not null default 'value',
  add column document jsonb, -- the rule as it was
  add column acknowledged_by text, add column acknowledged_at_ms bigint,
  add column snoozed_until_ms bigint,
  add column quiet_id int,
  add column closed_by text;
create unique index incident_failed_rule on incident (rule_id) where compare = 'failed' and cleared_at_ms is null;

-- What happened to an incident, by whom; by nobody: by the server.
create table incident_entry (
  id bigint generated always as identity primary key,
  incident_id bigint not null references incident on delete cascade,
  at_ms bigint not null,
  kind text not null check (kind in ('raised', 'worsened', 'eased', 'cleared', 'acknowledged', 'unacknowledged', 'snoozed', 'note', 'closed', 'told')),
  by text not null default '',
  text text not null default ''
);
create index incident_entry_incident on incident_entry (incident_id, at_ms);

create table quiet_time (
  id int generated always as identity primary key,
  title text not null check (char_length(title) between 1 and 200),
  why text not null default '',
  by text not null default '',
  scope jsonb not null,
  from_ms bigint not null,
  to_ms bigint not null check (to_ms > from_ms),
  repeat jsonb,
  ended_at_ms bigint
);

create table recipient (
  id int generated always as identity primary key,
  settings jsonb not null,
  secret bytea, -- sealed
  failing_since_ms bigint, -- since when nothing reached it any more
  failure text,
  removed_at timestamptz -- messages keep whom they were for
);

create table message (
  id uuid primary key, -- receivers drop repeats by it
  recipient_id int not null references recipient on delete cascade,
  kind text not null,
  incident_ids bigint[] not null,
  created_at_ms bigint not null,
  state text not null default 'waiting' check (state in ('waiting', 'sent', 'given up'))
);
create index message_time on message (created_at_ms);
create index message_incidents on message using gin (incident_ids);

create table message_attempt (
  id bigint generated always as identity primary key,
  message_id uuid not null references message on delete cascade,
  at_ms bigint not null,
  worked boolean not null,
  answer text not null -- of the other side, as it was
);
create index message_attempt_message on message_attempt (message_id, at_ms);

-- What each recipient has been told of an incident.
create table incident_told (
  incident_id bigint not null references incident on delete cascade,
  recipient_id int not null references recipient on delete cascade,
  severity text not null,
  first_at_ms bigint not null,
  last_at_ms bigint not null,
  has_escalated boolean not null default false,
  has_recovered boolean not null default false,
  primary key (incident_id, recipient_id)
);
create index incident_told_open on incident_told (incident_id) where not has_recovered;
