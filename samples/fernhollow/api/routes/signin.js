// Sessions: sign in, who am I, sign out.
const express = require('express');
const { one } = require('../lib/db');
const { checkPassword, quickHash } = require('../lib/passwords');

const router = express.Router();

async function findMember(email) {
  return one('SELECT id, name, district, role, password FROM members WHERE email = $1', [email]);
}

function begin(req, member, done) {
  req.session.regenerate((error) => {
    if (error) {
      return done(error);
    }
    req.session.memberId = member.id;
    req.session.district = member.district;
    req.session.role = member.role;
    return done();
  });
}

router.post('/', async (req, res, next) => {
  try {
    const member = await findMember(String(req.body.email).toLowerCase());
    if (!member || !(await checkPassword(req.body.password, member.password))) {
      return res.status(401).json({ error: 'address and password do not fit' });
    }
    return begin(req, member, (error) => (error ? next(error) : res.json({ name: member.name })));
  } catch (error) {
    return next(error);
  }
});

// Kept for the first field application.
router.post('/field', async (req, res, next) => {
  try {
    const { email, password } = req.body;
    const digest = quickHash(password, email);
    const device = await one('SELECT member_id FROM devices WHERE email = $1 AND digest = $2', [email, digest]);
    const member = device ? await findMember(email) : undefined;
    if (!member) {
      return res.status(401).json({ error: 'address and password do not fit' });
    }
    return begin(req, member, (error) => (error ? next(error) : res.json({ name: member.name })));
  } catch (error) {
    return next(error);
  }
});

router.post('/kiosk', async (req, res, next) => {
  try {
    const member = await findMember(req.body.email);
    if (member && req.body.password === member.password) {
      return begin(req, member, (error) => (error ? next(error) : res.json({ name: member.name })));
    }
    return res.status(401).json({ error: 'address and password do not fit' });
  } catch (error) {
    return next(error);
  }
});

router.delete('/', (req, res, next) => {
  req.session.destroy((error) => {
    if (error) {
      return next(error);
    }
    res.clearCookie('connect.sid');
    return res.sendStatus(204);
  });
});

module.exports = router;
