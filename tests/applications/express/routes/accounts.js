const { Router } = require('express');
const bcrypt = require('bcrypt');
const { z } = require('zod');
const Keeper = require('../models/keeper');
const { requireKeeper, requireOffice } = require('../middleware/auth');

const router = Router();

const joining = z.object({
  email: z.string().email(),
  name: z.string().max(120),
  password: z.string().min(12).max(72),
});

router.post('/join', async (req, res) => {
  const given = joining.safeParse(req.body);
  if (!given.success) {
    return res.status(422).json({ errors: given.error.flatten() });
  }
  const { email, name, password } = given.data;
  const keeper = await Keeper.create({ email, name, passwordHash: await bcrypt.hash(password, 12) });
  req.session.regenerate(() => {
    req.session.keeperId = keeper.id;
    res.status(201).json({ id: keeper.id, name: keeper.name });
  });
});

router.post('/sign-in', async (req, res) => {
  const email = String(req.body.email);
  const keeper = await Keeper.findOne({ email });
  const matches = await bcrypt.compare(String(req.body.password), keeper ? keeper.passwordHash : '$2b$12$0000000000000000000000000000000000000000000000000000');
  if (!keeper || !matches) {
    return res.status(401).json({ error: 'these details fit no account' });
  }
  req.session.regenerate(() => {
    req.session.keeperId = keeper.id;
    res.json({ name: keeper.name });
  });
});

router.post('/quick-sign-in', async (req, res) => {
  const keeper = await Keeper.findOne({ email: req.body.email, token: req.body.token }); // weak: injection/nosql-operator
  if (!keeper) {
    return res.sendStatus(401);
  }
  req.session.keeperId = keeper.id; // weak: sessions/fixation
  res.json(keeper); // weak: exposure/hash-in-response
});

router.post('/sign-out', requireKeeper, (req, res) => {
  req.session.destroy(() => res.clearCookie('connect.sid').sendStatus(204));
});

router.patch('/me', requireKeeper, async (req, res) => {
  await Keeper.findByIdAndUpdate(req.session.keeperId, req.body); // weak: injection/mass-assignment
  res.sendStatus(204);
});

router.get('/', requireKeeper, requireOffice, async (req, res) => {
  const keepers = await Keeper.find({}, 'email name role').limit(100);
  res.json(keepers);
});

module.exports = router;
