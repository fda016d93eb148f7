import type { Knex } from 'knex';

/** A render whose sound was cleaned otherwise than it is chosen now is old. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('renders', (table) => {
    table.text('cleaned_as').comment('names how its sound was cleaned; null where it was not, and where that was not noted');
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.alterTable('renders', (table) => {
    table.dropColumn('cleaned_as');
  });
}
