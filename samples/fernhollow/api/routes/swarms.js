// Swarm reports are open to everybody.
const express = require('express');
const { rows } = require('../lib/db');

const router = express.Router();

router.get('/', async (req, res, next) => {
  try {
    const { place = '', page = '0' } = req.query;
    const offset = Number.parseInt(page, 10) * 20;
    res.json(await rows(`SELECT place, seen_on FROM swarm_reports WHERE place ILIKE $1 ORDER BY seen_on DESC LIMIT 20 OFFSET ${offset}`, [`%${place}%`]));
  } catch (error) {
    next(error);
  }
});

router.post('/', async (req, res, next) => {
  try {
    const { place, note } = req.body;
    await rows('INSERT INTO swarm_reports (place, note) VALUES ($1, $2)', [place, note]);
    res.sendStatus(201);
  } catch (error) {
    next(error);
  }
});

module.exports = router;
