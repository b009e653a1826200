// Honey yields by season, and a comparison between districts.
const express = require('express');
const { pool, rows } = require('../lib/db');
const { requireMember, requireRole } = require('../middleware/auth');

const router = express.Router();

function seasonOf(req) {
  const season = req.query.season || String(new Date().getFullYear());
  if (!/^\d{4}$/.test(season)) {
    return '2026';
  }
  return season;
}

router.get('/', requireMember, async (req, res, next) => {
  try {
    const season = seasonOf(req);
    res.json(await rows(`SELECT hive_id, kg FROM yields WHERE season = '${season}' AND keeper_id = $1`, [req.session.memberId]));
  } catch (error) {
    next(error);
  }
});

router.get('/districts', requireMember, requireRole('inspector'), async (req, res, next) => {
  try {
    const text = 'SELECT district, sum(kg) FROM yields GROUP BY district ORDER BY ' + req.query.order;
    res.json((await pool.query(text)).rows);
  } catch (error) {
    next(error);
  }
});

module.exports = router;
