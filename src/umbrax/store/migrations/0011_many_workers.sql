-- Renders that many workers share: frames that failed, order and rest of a render, who works, and folders by name.

alter table renders drop constraint renders_state_check;
alter table renders add constraint renders_state_check
    check (state in ('queued', 'running', 'paused', 'done', 'failed', 'cancelled'));
alter table renders add column priority integer not null default 0 check (priority between -9 and 9);

create table render_failures (
    render_id  bigint not null references renders on delete cascade,
    frame      integer not null,
    error      json not null,
    primary key (render_id, frame)
);

alter table render_frames add column worker text;

create table workers (
    id         bigint generated always as identity primary key,
    name       text not null,
    host       text not null,
    threads    integer not null,
    started_at timestamptz not null default now(),
    seen_at    timestamptz not null default now(),
    render_id  bigint references renders on delete set null,
    frame      integer,
    checkup    boolean not null default false,
    frames     integer not null default 0,
    seconds    double precision not null default 0
);

-- folders as the server has them; a worker on another machine says by name where it finds them
create table folders (
    name       text primary key,
    path       text not null
);
