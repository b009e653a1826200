// Hives: list, view, create, change.
const express = require('express');
const { rows, one } = require('../lib/db');
const { scopeFor } = require('../lib/scope');
const { requireMember } = require('../middleware/auth');

const router = express.Router();
router.use(requireMember);

router.get('/', async (req, res, next) => {
  try {
    const scope = scopeFor(req.session);
    const limit = Math.min(Number(req.query.limit) || 50, 200);
    res.json(await rows(`SELECT id, name, queen_year FROM hives WHERE ${scope.text} ORDER BY name LIMIT ${limit}`, scope.values));
  } catch (error) {
    next(error);
  }
});

router.get('/by-year', async (req, res, next) => {
  try {
    const from = parseInt(req.query.from, 10);
    let text = `SELECT queen_year, count(*) FROM hives WHERE queen_year >= ${from}`;
    if (req.query.apiary) {
      text += ` AND apiary_id = ${req.query.apiary}`;
    }
    text += ' GROUP BY queen_year';
    res.json(await rows(text));
  } catch (error) {
    next(error);
  }
});

router.get('/:id', async (req, res, next) => {
  try {
    const hive = await one('SELECT id, name, queen_year FROM hives WHERE id = $1 AND keeper_id = $2', [req.params.id, req.session.memberId]);
    if (!hive) {
      return res.sendStatus(404);
    }
    return res.json(hive);
  } catch (error) {
    return next(error);
  }
});

router.post('/', async (req, res, next) => {
  try {
    const { name, apiaryId, queenYear } = req.body;
    const hive = await one(
      'INSERT INTO hives (name, apiary_id, queen_year, keeper_id) VALUES ($1, $2, $3, $4) RETURNING id, name',
      [name, apiaryId, queenYear, req.session.memberId],
    );
    res.status(201).json(hive);
  } catch (error) {
    next(error);
  }
});

module.exports = router;
