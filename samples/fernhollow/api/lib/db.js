// One pool for the whole service.
const { Pool } = require('pg');

const pool = new Pool({
  host: process.env.DB_HOST || 'localhost',
  user: 'fernhollow_api',
  password: process.env.DB_PASSWORD,
  database: 'register',
});

async function rows(text, values = []) {
  const result = await pool.query(text, values);
  return result.rows;
}

async function one(text, values = []) {
  return (await rows(text, values))[0];
}

module.exports = { pool, rows, one };
