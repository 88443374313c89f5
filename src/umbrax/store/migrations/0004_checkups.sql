-- The check-up of a shot's sources: one row a shot, what it found last and how far it is. The queue holds the work.

create table checkups (
    shot_id    bigint primary key references shots on delete cascade,
    revision   integer not null,
    state      text not null check (state in ('queued', 'running', 'done', 'failed', 'cancelled')),
    done       integer not null default 0,
    total      integer not null default 0,
    findings   json not null default '[]',
    cancel     boolean not null default false,
    error      json,
    changed_at timestamptz not null default now(),
    foreign key (shot_id, revision) references revisions (shot_id, number)
);
