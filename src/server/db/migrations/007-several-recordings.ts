import type { Knex } from 'knex';

/** Several recordings in one episode, each with its place on the episode clock. */
export async function up(knex: Knex): Promise<void> {
  await knex.schema.alterTable('recordings', (table) => {
    table.integer('place').notNullable().defaultTo(0).comment('whole seconds on the episode clock; never changes');
    table.text('upload_id').unique().comment('the upload it was added from, so that asking twice adds one');
  });
}

export async function down(knex: Knex): Promise<void> {
  await knex('recordings').where('position', '>', 0).delete();
  await knex.schema.alterTable('recordings', (table) => {
    table.dropColumns('place', 'upload_id');
  });
}
