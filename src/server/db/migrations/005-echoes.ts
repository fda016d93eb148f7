import type { Knex } from 'knex';

/** When it was listened for lines that are said again. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('media', (table) => {
    table.timestamp('echoes_at').comment('when stretches that sound like earlier ones were found');
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.alterTable('media', (table) => {
    table.dropColumn('echoes_at');
  });
}
