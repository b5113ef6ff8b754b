"""The queue's own tables and functions, as its library brings them."""

from alembic import op
from procrastinate.schema import SchemaManager

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

_DROP = """
do $$
declare found record;
begin
  for found in select tablename as name from pg_tables where tablename like 'procrastinate\\_%' loop
    execute format('drop table if exists %I cascade', found.name);
  end loop;
  for found in select p.oid::regprocedure as name from pg_proc p where p.proname like 'procrastinate\\_%' loop
    execute format('drop function if exists %s cascade', found.name);
  end loop;
  for found in select t.typname as name from pg_type t
               where t.typname like 'procrastinate\\_%' and t.typtype in ('e', 'c') loop
    execute format('drop type if exists %I cascade', found.name);
  end loop;
end $$
"""


def upgrade() -> None:
    # as the driver's own statement: in the schema % and : are no parameters
    op.get_bind().exec_driver_sql(SchemaManager.get_schema().replace("%", "%%"))


def downgrade() -> None:
    op.get_bind().exec_driver_sql(_DROP.replace("%", "%%"))
