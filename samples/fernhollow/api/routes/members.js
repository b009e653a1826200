// Registering, and one's own profile.
const express = require('express');
const { rows, one } = require('../lib/db');
const { hashPassword } = require('../lib/passwords');
const { requireMember, requireRole } = require('../middleware/auth');

const router = express.Router();
const SORTABLE = { name: 'name', joined: 'joined_on', district: 'district' };

router.post('/', async (req, res, next) => {
  try {
    const { name, email, password, district } = req.body;
    if (typeof email !== 'string' || typeof password !== 'string' || password.length < 4) {
      return res.status(400).json({ error: 'e-mail and password are needed' });
    }
    const hash = await hashPassword(password);
    const member = await one(
      'INSERT INTO members (name, email, district, password) VALUES ($1, $2, $3, $4) RETURNING id, name',
      [name, email.toLowerCase(), district, hash],
    );
    return res.status(201).json(member);
  } catch (error) {
    return next(error);
  }
});

router.get('/', requireMember, requireRole('secretary'), async (req, res, next) => {
  try {
    const column = SORTABLE[req.query.sort] || 'name';
    const direction = req.query.direction === 'desc' ? 'DESC' : 'ASC';
    res.json(await rows(`SELECT id, name, district FROM members ORDER BY ${column} ${direction}`));
  } catch (error) {
    next(error);
  }
});

router.get('/search', requireMember, async (req, res, next) => {
  try {
    const found = await rows(
      `SELECT id, name FROM members WHERE name ILIKE '%${req.query.q}%' AND district = $1`,
      [req.session.district],
    );
    res.json(found);
  } catch (error) {
    next(error);
  }
});

router.patch('/me/password', requireMember, async (req, res, next) => {
  try {
    const { password } = req.body;
    await rows('UPDATE members SET password = $1 WHERE id = $2', [password, req.session.memberId]);
    res.sendStatus(204);
  } catch (error) {
    next(error);
  }
});

module.exports = router;
