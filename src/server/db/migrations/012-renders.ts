import type { Knex } from 'knex';

/** Finished sound and picture: what was asked for, and what came of it. The files lie beside the media. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('renders', (table) => {
    table.uuid('id').primary().defaultTo(knex.raw('gen_random_uuid()'));
    table.uuid('episode_id').notNullable().references('id').inTable('episodes').onDelete('CASCADE');
    table.text('name').notNullable().comment('of the file');
    table.jsonb('choices').notNullable();
    table.jsonb('scope').notNullable().comment('a part, a marked range, or all of it');
    table.timestamp('asked_at').notNullable().defaultTo(knex.fn.now());
    table.timestamp('made_at');
    table.bigInteger('made_from').comment('last entry of the log that it was made from');
    table.integer('words_version').comment('... and of its words');
    table.bigInteger('bytes');
    table.specificType('length', 'double precision').comment('seconds');
    table.jsonb('loudness').comment('before and after, as it was measured');
    table.index('episode_id');
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex.schema.dropTable('renders');
}
