-- From which slot to which each series has samples, a page of 1,024 series a row (server/store/series-lives.ts): a
-- reading leaves out at once what had ended before its window. Series of before are taken to have been there for ever.
create table series_life (
  page int primary key,
  lives bytea not null
);
insert into setting (name, value)
select 'lives_are_known_after', to_jsonb(coalesce(max(id), 0)) from series;
