"""What the core reads of a part, a line and an operation, packed by PostgreSQL into one column when it writes the row.

As ``loading.table_columns`` has it, which a test holds this against. Written out, since a migration stays as it was once it has run.
Of the first version, like what stands before it: on tables that hold rows it would let everybody wait.
"""

from django.db import migrations

ADDED = [
    """ALTER TABLE definition_part ADD COLUMN packed_1 bytea GENERATED ALWAYS AS (
    int8send((id)::int8) ||
    charsend((prices <> '[]'::jsonb)::int::"char") ||
    charsend((array_position(ARRAY['made', 'bought', 'phantom', 'charge']::text[], (kind)::text) - 1)::int::"char") ||
    charsend((array_position(ARRAY['ea', 'pair', 'dozen', 'hundred', 'kg', 'g', 'm', 'mm', 'cm', 'km', 'in', 'ft', 'm2', 'mm2', 'cm2', 'ft2', 'L', 'mL', 'm3', 'gal', 'mg', 't', 'lb', 'oz', 'h', 'min', 's', 'd']::text[], (unit)::text) - 1)::int::"char") ||
    float8send((coalesce(unit_cost, 'NaN'))::float8) ||
    float8send((coalesce(given_cost, 'NaN'))::float8) ||
    charsend((array_position(ARRAY['one_element', 'proportion']::text[], (given_as)::text) - 1)::int::"char") ||
    float8send((coalesce(overhead_percent, 0))::float8) ||
    float8send((coalesce(costing_lot, 'NaN'))::float8) ||
    charsend((whole_only)::int::"char") ||
    float8send((coalesce(markup_percent, 0))::float8)
) STORED""",
    """ALTER TABLE definition_line ADD COLUMN packed_1 bytea GENERATED ALWAYS AS (
    uuid_send((id)::uuid) ||
    int8send((sheet_id)::int8) ||
    float8send((position)::float8) ||
    int8send((coalesce(part_id, -1))::int8) ||
    charsend((CASE WHEN unit = '' THEN -1 ELSE array_position(ARRAY['ea', 'pair', 'dozen', 'hundred', 'kg', 'g', 'm', 'mm', 'cm', 'km', 'in', 'ft', 'm2', 'mm2', 'cm2', 'ft2', 'L', 'mL', 'm3', 'gal', 'mg', 't', 'lb', 'oz', 'h', 'min', 's', 'd']::text[], (unit)::text) - 1 END)::int::"char") ||
    charsend((quantity_basis = 'per_lot')::int::"char") ||
    uuid_send((coalesce(operation_id, '00000000-0000-0000-0000-000000000000'))::uuid) ||
    int4send((coalesce(option_id, -1))::int4) ||
    charsend((option_id IS NOT NULL AND option_action = 'remove')::int::"char") ||
    int4send((coalesce(effective_from - date '0001-01-01' + 1, 0))::int4) ||
    int4send((coalesce(effective_to - date '0001-01-01' + 1, 2147483647))::int4) ||
    charsend((array_position(ARRAY['component', 'byproduct', 'text']::text[], (kind)::text) - 1)::int::"char") ||
    float8send((coalesce(quantity, 'NaN'))::float8) ||
    float8send((coalesce(scrap_percent, 'NaN'))::float8) ||
    float8send((coalesce(yield_percent, 'NaN'))::float8) ||
    float8send((coalesce(fixed_loss, 0))::float8) ||
    charsend((customer_supplied)::int::"char") ||
    charsend((not_fitted)::int::"char") ||
    int4send((coalesce(item, 0))::int4)
) STORED""",
    """ALTER TABLE definition_operation ADD COLUMN packed_1 bytea GENERATED ALWAYS AS (
    uuid_send((id)::uuid) ||
    int8send((sheet_id)::int8) ||
    int8send((coalesce(work_center_id, -1))::int8) ||
    float8send((coalesce(CASE WHEN outside THEN unit_price END, 'NaN'))::float8) ||
    float8send((minimum_charge)::float8) ||
    int4send((coalesce(sequence, 0))::int4) ||
    int4send((coalesce(resource, 0))::int4) ||
    float8send((coalesce(setup_minutes, 0))::float8) ||
    float8send((coalesce(run_minutes, 0))::float8) ||
    charsend((array_position(ARRAY['per_unit', 'per_cycle', 'per_lot']::text[], (run_basis)::text) - 1)::int::"char") ||
    float8send((coalesce(cycle_quantity, 'NaN'))::float8) ||
    float8send((coalesce(crew, 1))::float8) ||
    float8send((coalesce(setup_crew, 1))::float8) ||
    float8send((coalesce(piece_rate, 'NaN'))::float8) ||
    float8send((coalesce(yield_percent, 100))::float8)
) STORED""",
]


class Migration(migrations.Migration):
    initial = True

    dependencies = [("definition", "0001_initial")]

    operations = [migrations.RunSQL(added) for added in ADDED]
