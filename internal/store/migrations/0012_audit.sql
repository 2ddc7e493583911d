-- +goose Up
-- Who did what: each change of what people decide, with what was there before. Rows are only ever added.
CREATE TABLE audit (
    id     bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    at     timestamptz NOT NULL DEFAULT clock_timestamp(),
    who    text        NOT NULL,
    of     text        NOT NULL, -- the table
    name   text        NOT NULL, -- of what was changed
    before jsonb,                -- null where it is new
    after  jsonb                 -- null where it is gone
);
-- +goose StatementBegin
CREATE FUNCTION audit_stays() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'the audit list is only added to';
END
$$;
-- +goose StatementEnd
CREATE TRIGGER stays BEFORE UPDATE OR DELETE OR TRUNCATE ON audit FOR EACH STATEMENT EXECUTE FUNCTION audit_stays();
-- What is as long as a list of a hundred thousand orders is noted by its digest; but labels, which earlier books are made with.
-- +goose StatementBegin
CREATE FUNCTION audit_of(record jsonb, whole boolean) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
    SELECT CASE WHEN NOT whole AND length(record::text) > 20000
        THEN jsonb_build_object('name', record -> 'name', 'characters', length(record::text), 'md5', md5(record::text))
        ELSE record - ARRAY['id', 'saved_at', 'loaded_at', 'loaded_on', 'loaded_by', 'load_id', 'changes', 'one', 'headings'] END
$$;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE FUNCTION audit_change() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    was jsonb := CASE WHEN TG_OP <> 'INSERT' THEN audit_of(to_jsonb(OLD), TG_TABLE_NAME = 'labels') END;
    became jsonb := CASE WHEN TG_OP <> 'DELETE' THEN audit_of(to_jsonb(NEW), TG_TABLE_NAME = 'labels') END;
    record jsonb := to_jsonb(CASE WHEN TG_OP = 'DELETE' THEN OLD ELSE NEW END);
BEGIN
    IF was IS DISTINCT FROM became THEN
        INSERT INTO audit (who, of, name, before, after)
        VALUES (coalesce(nullif(current_setting('prairie_dusk.actor', true), ''), 'the service'), TG_TABLE_NAME,
            coalesce(record ->> 'name', record ->> 'status', CASE WHEN TG_TABLE_NAME = 'loads' THEN record ->> 'id' END, ''), was, became);
    END IF;
    RETURN NULL;
END
$$;
-- +goose StatementEnd
CREATE TRIGGER audited AFTER INSERT OR UPDATE ON loads FOR EACH ROW EXECUTE FUNCTION audit_change();
CREATE TRIGGER audited AFTER INSERT OR UPDATE OR DELETE ON calendars FOR EACH ROW EXECUTE FUNCTION audit_change();
CREATE TRIGGER audited AFTER INSERT OR UPDATE OR DELETE ON labels FOR EACH ROW EXECUTE FUNCTION audit_change();
CREATE TRIGGER audited AFTER INSERT OR UPDATE OR DELETE ON layouts FOR EACH ROW EXECUTE FUNCTION audit_change();
CREATE TRIGGER audited AFTER INSERT OR UPDATE OR DELETE ON statuses FOR EACH ROW EXECUTE FUNCTION audit_change();
CREATE TRIGGER audited AFTER UPDATE ON book_settings FOR EACH ROW EXECUTE FUNCTION audit_change();
CREATE TRIGGER audited AFTER INSERT OR UPDATE OR DELETE ON views FOR EACH ROW EXECUTE FUNCTION audit_change();
CREATE TRIGGER audited AFTER INSERT OR UPDATE OR DELETE ON checks FOR EACH ROW EXECUTE FUNCTION audit_change();
