-- Formats that are not multiplied by alpha hold no light without it: how a render keeps it, and what people are told of it.

alter table renders add column raise_alpha boolean not null default true;
alter table renders add column note text;
