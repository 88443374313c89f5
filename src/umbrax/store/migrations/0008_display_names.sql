alter table called rename to display_names;
alter index called_pkey rename to display_names_pkey;
