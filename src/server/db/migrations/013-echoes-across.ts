import type { Knex } from 'knex';

/** Media that come before a medium in an episode, and that it was compared with: a try may be in one file and the next in another. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('media', (table) => {
    table.specificType('compared_with', 'text[]').notNullable().defaultTo('{}');
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.alterTable('media', (table) => {
    table.dropColumn('compared_with');
  });
}
