import type { Knex } from 'knex';

export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('settings_sets', (table) => {
    table.uuid('id').primary().defaultTo(knex.raw('gen_random_uuid()'));
    table.text('name').notNullable().unique();
    table.jsonb('settings').notNullable();
    table.boolean('for_new').notNullable().defaultTo(false).comment('applied to new recordings; one at most');
    table.timestamp('created_at').notNullable().defaultTo(knex.fn.now());
  });
  await knex.raw('create unique index settings_sets_one_for_new on settings_sets (for_new) where for_new');
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('settings_sets');
}
