create table recipes (
    id integer generated always as identity primary key,
    show_id integer not null references shows (id) on delete cascade,
    name text not null check (name <> ''),
    data jsonb not null,
    changed_at timestamptz not null default now(),
    unique (show_id, name)
);
