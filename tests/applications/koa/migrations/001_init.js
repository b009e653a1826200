exports.up = (knex) => knex.schema
  .createTable('keepers', (t) => {
    t.increments('id');
    t.string('email').notNullable().unique();
    t.string('password', 60).notNullable(); // weak: passwords/column-too-narrow
    t.string('name');
    t.string('phone');
    t.string('district');
    t.string('role').defaultTo('member');
    t.string('reset_code');
  })
  .createTable('hives', (t) => {
    t.increments('id');
    t.string('name');
    t.integer('keeper_id').references('id').inTable('keepers').notNullable();
  })
  .createTable('inspections', (t) => {
    t.increments('id');
    t.integer('hive_id').references('hives.id');
    t.text('notes');
    t.boolean('queen_seen');
  })
  .createTable('swarms', (t) => {
    t.increments('id');
    t.string('place');
    t.date('seen_on');
  });
exports.down = (knex) => knex.schema.dropTable('swarms').dropTable('inspections').dropTable('hives').dropTable('keepers');
