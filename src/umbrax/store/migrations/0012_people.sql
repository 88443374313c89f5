-- People, what each may do in a show, what opens the door for them, and who changed what.

create table people (
    id         bigint generated always as identity primary key,
    name       text not null check (name <> ''),
    admin      boolean not null default false,
    -- as argon2 writes it; null: none chosen yet
    password   text,
    created_at timestamptz not null default now(),
    -- one who left stays for what they did
    removed_at timestamptz
);
create unique index people_one_of_a_name on people (lower(name)) where removed_at is null;

create table roles (
    person_id bigint not null references people on delete cascade,
    show_id   bigint not null references shows on delete cascade,
    role      text not null check (role in ('look', 'work', 'hand off', 'own')),
    primary key (person_id, show_id)
);

-- Sessions of browsers and tokens of the command line; entries and invitations open once. Of what is told to people only the
-- SHA-256 is kept.
create table credentials (
    id         bigint generated always as identity primary key,
    person_id  bigint not null references people on delete cascade,
    kind       text not null check (kind in ('session', 'token', 'entry', 'invitation')),
    name       text not null default '',
    digest     bytea not null unique,
    created_at timestamptz not null default now(),
    used_at    timestamptz,
    expires_at timestamptz
);
create index credentials_of_person on credentials (person_id, kind);

-- who asks is told at the beginning of a transaction; outside of one, and for workers, it is nobody
create function acting_person() returns bigint language sql stable as
$$ select nullif(current_setting('umbrax.person', true), '')::bigint $$;

alter table revisions add column person_id bigint references people;
alter table revisions alter column person_id set default acting_person();
alter table renders add column person_id bigint references people;
alter table renders alter column person_id set default acting_person();

-- Whatever people change, beside revisions, which tell for themselves: one row a change, in the change's own transaction.
create table changes (
    id         bigint generated always as identity primary key,
    made_at    timestamptz not null default now(),
    person_id  bigint references people default acting_person(),
    -- the table, what was done to the row, which row it was, and what is new in it
    subject    text not null,
    way        text not null check (way in ('insert', 'update', 'delete')),
    of         jsonb not null,
    detail     jsonb not null
);

create function note_change() returns trigger language plpgsql as $$
declare
    was   jsonb := case when tg_op = 'INSERT' then '{}' else to_jsonb(old) end;
    now_  jsonb := case when tg_op = 'DELETE' then '{}' else to_jsonb(new) end;
    whole jsonb := was || now_;
    told  jsonb;
begin
    -- what is secret, and what only counts along, is not told
    select coalesce(jsonb_object_agg(e.key, case when e.key in ('password', 'digest') then to_jsonb(e.value <> 'null') else e.value end), '{}')
    into told from jsonb_each(case when tg_op = 'DELETE' then was else now_ end) e
    where was -> e.key is distinct from now_ -> e.key and not (e.key = any (coalesce(tg_argv, '{}')));
    if told <> '{}' then
        insert into changes (subject, way, of, detail) values (
            tg_table_name, lower(tg_op),
            jsonb_strip_nulls(jsonb_build_object('id', whole -> 'id', 'show_id', whole -> 'show_id', 'shot_id', whole -> 'shot_id',
                'person_id', whole -> 'person_id', 'name', whole -> 'name', 'path', whole -> 'path')),
            told);
    end if;
    return null;
end $$;

create trigger shows_change after insert or update or delete on shows for each row execute function note_change('created_at');
create trigger shots_change after insert or update or delete on shots for each row execute function note_change('changed_at', 'last');
create trigger recipes_change after insert or update or delete on recipes for each row execute function note_change('changed_at', 'data');
create trigger display_names_change after insert or update or delete on display_names for each row execute function note_change();
create trigger media_folders_change after insert or update or delete on media_folders for each row execute function note_change('added_at');
create trigger people_change after insert or update or delete on people for each row execute function note_change('created_at');
create trigger roles_change after insert or update or delete on roles for each row execute function note_change();
create trigger credentials_change after insert or delete on credentials for each row execute function note_change('created_at', 'used_at');
-- workers change a render all the time
create trigger renders_change after insert or update on renders for each row when (acting_person() is not null)
    execute function note_change('changed_at', 'created_at', 'job', 'frames', 'folder', 'done');
