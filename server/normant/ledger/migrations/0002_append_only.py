"""The ledger only grows: the database refuses to change or delete an entry."""

from django.db import migrations

FORWARD = """
CREATE FUNCTION ledger_append_only() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'the ledger is append-only: % is refused', TG_OP;
END $$;
CREATE TRIGGER ledger_append_only BEFORE UPDATE OR DELETE ON ledger_entry
    FOR EACH ROW EXECUTE FUNCTION ledger_append_only();
CREATE TRIGGER ledger_no_truncate BEFORE TRUNCATE ON ledger_entry
    FOR EACH STATEMENT EXECUTE FUNCTION ledger_append_only();
"""
BACKWARD = """
DROP TRIGGER ledger_no_truncate ON ledger_entry;
DROP TRIGGER ledger_append_only ON ledger_entry;
DROP FUNCTION ledger_append_only();
"""


class Migration(migrations.Migration):
    dependencies = [("ledger", "0001_initial")]

    operations = [migrations.RunSQL(FORWARD, BACKWARD)]
