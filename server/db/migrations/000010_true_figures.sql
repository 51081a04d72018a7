-- What it means that a total falls, where its format says more than that it restarts: 'corrected', or the number at which it wraps.
alter table series add column falls text;

-- Rollups say more than they did (core/chunk/rollup-block.ts, version 2): days of which samples are still there are rolled up anew.
insert into rollup_due (tier, period)
select distinct '5m', slot / 12 from gathered
on conflict (tier, period) do update set series_ids = null;
