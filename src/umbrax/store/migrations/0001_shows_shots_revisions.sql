-- Shows, their sources, shots and the revisions of each shot.

create table shows (
    id         bigint generated always as identity primary key,
    name       text not null unique check (name <> ''),
    folder     text not null,
    created_at timestamptz not null default now()
);

create table sources (
    show_id    bigint not null references shows on delete cascade,
    name       text not null check (name <> ''),
    path       text not null,
    colour     text not null default 'auto',
    created_at timestamptz not null default now(),
    primary key (show_id, name)
);

create table shots (
    id         bigint generated always as identity primary key,
    show_id    bigint not null references shows on delete cascade,
    name       text not null check (name <> ''),
    head       integer,
    last       integer not null default 0,
    changed_at timestamptz not null default now(),
    unique (show_id, name)
);

-- A revision never changes. `document` is canonical JSON kept letter for letter (json, not jsonb) with its SHA-256.
create table revisions (
    shot_id    bigint not null references shots on delete cascade,
    number     integer not null check (number > 0),
    parent     integer,
    document   json not null,
    digest     text not null,
    command    text not null,
    gesture    text not null,
    tab        text not null default '',
    created_at timestamptz not null default now(),
    primary key (shot_id, number),
    foreign key (shot_id, parent) references revisions (shot_id, number),
    check (parent < number)
);

-- a gesture is one revision: sent twice, it is kept once
create unique index revisions_one_a_gesture on revisions (shot_id, gesture);
create index revisions_children on revisions (shot_id, parent);

-- the head is a revision of the shot, or nothing while the first one is being written
alter table shots add foreign key (id, head) references revisions (shot_id, number) deferrable initially deferred;
