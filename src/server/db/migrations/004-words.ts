import type { Knex } from 'knex';

/** What recognising and exporting words need. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('jobs', (table) => {
    table.jsonb('options').notNullable().defaultTo('{}');
  });
  await knex.schema.alterTable('media', (table) => {
    table.timestamp('voice_at').comment('when held sounds were measured');
  });
  await knex.schema.createTable('masked_words', (table) => {
    table.text('language').notNullable();
    table.text('word').notNullable();
    table.primary(['language', 'word']);
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('masked_words');
  await knex.schema.alterTable('media', (table) => {
    table.dropColumn('voice_at');
  });
  await knex.schema.alterTable('jobs', (table) => {
    table.dropColumn('options');
  });
}
