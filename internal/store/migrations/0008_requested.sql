-- +goose Up
-- The day that the customer asked for was called wanted, and is requested.
ALTER TABLE orders RENAME COLUMN wanted TO requested;
-- A column of the user's own may have had the name: its days are those of the milestone where that had none, and anything else keeps
-- what it holds under another name.
UPDATE orders SET requested = coalesce(requested, left(extra ->> 'requested', 10)::date), extra = extra - 'requested'
    WHERE extra ? 'requested' AND EXISTS (SELECT FROM extra_columns WHERE kind = 'orders' AND name = 'requested' AND is_milestone);
DELETE FROM extra_columns WHERE kind = 'orders' AND name = 'requested' AND is_milestone;
UPDATE orders SET extra = extra - 'requested' || jsonb_build_object('requested-text', extra -> 'requested')
    WHERE extra ? 'requested' AND EXISTS (SELECT FROM extra_columns WHERE kind = 'orders' AND name = 'requested');
UPDATE extra_columns SET name = 'requested-text' WHERE kind = 'orders' AND name = 'requested';
-- Times of day lie beside the days.
UPDATE orders SET extra = extra - 'wanted' || jsonb_build_object('requested', extra -> 'wanted') WHERE extra ? 'wanted';
UPDATE changes SET before = before - 'wanted' || jsonb_build_object('requested', before -> 'wanted') WHERE kind = 'orders' AND before ? 'wanted';
UPDATE changes SET before = jsonb_set(before, '{extra}', (before -> 'extra') - 'wanted' || jsonb_build_object('requested', before #> '{extra,wanted}'))
    WHERE kind = 'orders' AND before -> 'extra' ? 'wanted';

-- What people have kept speaks of it in conditions, columns and legs. A text between quotes is theirs, and stays.
-- +goose StatementBegin
CREATE FUNCTION pg_temp.renamed(kept text) RETURNS text LANGUAGE plpgsql AS $$
DECLARE
    between_quotes CONSTANT text := '(''[^'']*''|"[^"]*"|%27(?:[^%]|%(?!27))*%27|%22(?:[^%]|%(?!22))*%22)';
    texts text[];
    others text[];
BEGIN
    kept := regexp_replace(kept, 'no([ _+-]|%20)wanted([ _+-]|%20)day', 'no\1requested\2date', 'g');
    kept := regexp_replace(kept, 'wanted((?: |[+]|%20)before(?: |[+]|%20)ordered)', 'requested\1', 'g');
    texts := ARRAY(SELECT quoted[1] FROM regexp_matches(kept, between_quotes, 'g') AS quoted) || ''::text;
    others := regexp_split_to_array(kept, between_quotes);
    kept := '';
    FOR i IN 1 .. cardinality(others) LOOP
        others[i] := regexp_replace(others[i], '(%[0-9A-Fa-f]{2}|_or_)wanted(?![A-Za-z0-9]|_(?!or_|before_ordered))', '\1requested', 'g');
        kept := kept || regexp_replace(others[i], '(^|[^A-Za-z0-9?&_])wanted(?![A-Za-z0-9]|_(?!or_|before_ordered))', '\1requested', 'g') || texts[i];
    END LOOP;
    RETURN kept;
END
$$;
-- +goose StatementEnd
UPDATE views SET address = pg_temp.renamed(address) WHERE address ~ 'wanted';
UPDATE labels SET definition = jsonb_set(definition, '{rules}', (
        SELECT jsonb_agg(CASE WHEN jsonb_typeof(rule -> 'where') = 'string' THEN jsonb_set(rule, '{where}', to_jsonb(pg_temp.renamed(rule ->> 'where'))) ELSE rule END ORDER BY place)
        FROM jsonb_array_elements(definition -> 'rules') WITH ORDINALITY AS r(rule, place)))
    WHERE definition ->> 'rules' ~ 'wanted' AND jsonb_typeof(definition -> 'rules') = 'array';
UPDATE layouts SET definition = jsonb_set(definition, '{columns}', (
        SELECT jsonb_agg(CASE WHEN col ->> 'means' = 'wanted' THEN jsonb_set(col, '{means}', '"requested"') ELSE col END ORDER BY place)
        FROM jsonb_array_elements(definition -> 'columns') WITH ORDINALITY AS c(col, place)))
    WHERE definition ->> 'columns' ~ 'wanted';
-- What was undone before this cannot come back: it has the old name.
-- +goose StatementBegin
DO $$ DECLARE schema text; BEGIN
    FOR schema IN SELECT nspname FROM pg_namespace WHERE nspname ~ '^undone_[0-9]+$' LOOP EXECUTE format('DROP SCHEMA %I CASCADE', schema); END LOOP;
END $$;
-- +goose StatementEnd
