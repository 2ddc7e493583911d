-- +goose Up
-- Questions have other words: what was achieved was called got. Saved views are addresses of the console.
UPDATE views SET address = regexp_replace(address, '([?&])got=', '\1achieved=', 'g') WHERE address LIKE '/immediate?%';
UPDATE views SET address = regexp_replace(address, '^/orders[?](.*&)?doubt=([^&]*)', '/orders?\1behind=quality%3Fcode%3D\2') WHERE address ~ '^/orders[?](.*&)?doubt=';
UPDATE views SET address = '/quality' || substr(address, 8) WHERE address LIKE '/doubts%';
