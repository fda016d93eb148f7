import type { Knex } from 'knex';

/** What verdicts teach about probabilities: of each episode, under the settings set that it was decided under. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('lessons', (table) => {
    table.uuid('id').primary().defaultTo(knex.raw('gen_random_uuid()'));
    table.uuid('set_id').references('id').inTable('settings_sets').onDelete('CASCADE').comment('null without a named set');
    table
      .uuid('episode_id')
      .unique()
      .references('id')
      .inTable('episodes')
      .onDelete('SET NULL')
      .comment('what an episode taught outlives it');
    table.jsonb('lessons').notNullable();
    table.timestamp('taught_at').notNullable().defaultTo(knex.fn.now());
    table.index('set_id');
  });
  await knex.schema.createTable('lessons_off', (table) => {
    table.uuid('id').primary().defaultTo(knex.raw('gen_random_uuid()'));
    table.uuid('set_id').references('id').inTable('settings_sets').onDelete('CASCADE');
    table.text('about').notNullable().comment('a class that nothing is taught about any more');
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('lessons_off');
  await knex.schema.dropTable('lessons');
}
