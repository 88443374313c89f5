-- A render is made at full size, or at a half, a quarter or an eighth of it.

alter table renders add column scale integer not null default 1 check (scale in (1, 2, 4, 8));
