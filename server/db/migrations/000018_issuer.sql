-- An issuer of one's own by which people sign in (OpenID Connect), and who of them is who here.
create table issuer (
  is_one boolean primary key default true check (is_one),
  settings jsonb not null,
  -- sealed
  secret text
);

create table issued (
  account_id int not null references account on delete cascade,
  issuer text not null,
  subject text not null,
  -- whether the issuer says what the person may: so it is with those whom it brought
  is_ruled boolean not null,
  primary key (issuer, subject),
  unique (account_id, issuer)
);
