-- A pause of a source says who, why and until when: {"by", "why", "sinceMs", "untilMs"}. Those that were paused before end within a month.
alter table source add column pause jsonb;
update source
set pause = jsonb_build_object('by', '', 'why', '', 'sinceMs', (extract(epoch from now()) * 1000)::bigint, 'untilMs', (extract(epoch from now() + interval '31 days') * 1000)::bigint)
where is_paused;
alter table source drop column is_paused;

-- Machines that it reported about under another name.
alter table source add column former_machines text[] not null default '{}';
