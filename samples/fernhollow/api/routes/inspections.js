// Inspections of hives.
const express = require('express');
const { pool, rows } = require('../lib/db');
const { requireMember } = require('../middleware/auth');

const router = express.Router();
const STATES = ['calm', 'queenless', 'sick', 'strong'];

function conditions(query) {
  const parts = ['h.keeper_id = $1'];
  if (STATES.includes(query.state)) {
    parts.push(`i.state = '${query.state}'`);
  }
  if (query.since) {
    parts.push(`i.seen_on >= '${query.since}'`);
  }
  return parts.join(' AND ');
}

router.get('/', requireMember, async (req, res, next) => {
  try {
    const where = conditions(req.query);
    const found = await pool.query(`SELECT i.id, i.seen_on, i.state FROM inspections i JOIN hives h ON h.id = i.hive_id WHERE ${where}`, [req.session.memberId]);
    res.json(found.rows);
  } catch (error) {
    next(error);
  }
});

router.post('/', requireMember, async (req, res, next) => {
  try {
    const { hiveId, state, mites } = req.body;
    await rows(
      'INSERT INTO inspections (hive_id, state, mites) SELECT id, $2, $3 FROM hives WHERE id = $1 AND keeper_id = $4',
      [hiveId, state, Number(mites), req.session.memberId],
    );
    res.sendStatus(201);
  } catch (error) {
    next(error);
  }
});

module.exports = router;
