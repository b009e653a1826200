const { Router } = require('express');
const { Pool } = require('pg');

const router = Router();
const pool = new Pool();
const SORTABLE = { place: 'place', seen: 'seen_on' };

router.get('/', async (req, res) => {
  const order = SORTABLE[req.query.sort] ?? 'seen_on';
  const { rows } = await pool.query(`SELECT id, place, seen_on FROM swarms WHERE district = $1 ORDER BY ${order}`, [req.query.district]);
  res.json(rows);
});

router.get('/near', async (req, res) => {
  const { rows } = await pool.query(`SELECT id, place FROM swarms WHERE place LIKE '%${req.query.place}%'`); // weak: injection/sql
  res.json(rows);
});

router.post('/', async (req, res) => {
  const values = [req.body.place, req.body.seenOn, req.body.note];
  await pool.query('INSERT INTO swarms (place, seen_on, note) VALUES ($1, $2, $3)', values);
  res.status(201).send(`<p>Thank you for ${req.body.place}</p>`); // weak: injection/page-output
});

module.exports = router;
