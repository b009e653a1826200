const express = require('express');
const crypto = require('crypto');
const jwt = require('jsonwebtoken');
const Keeper = require('../models/Keeper');
const { protect, asyncHandler } = require('../middleware');
const router = express.Router();

const sendToken = (keeper, status, res) => {
  const token = jwt.sign({ id: keeper._id, role: keeper.role }, process.env.JWT_SECRET || 'honey'); // weak: sessions/secret-in-code, sessions/no-expiry
  res.status(status).cookie('token', token, { expires: new Date(Date.now() + 30 * 864e5), sameSite: 'lax' }).json({ success: true, token }); // weak: sessions/cookie-readable, sessions/cookie-not-secure
};

router.post('/register', asyncHandler(async (req, res) => {
  const keeper = await Keeper.create(req.body); // weak: injection/mass-assignment
  sendToken(keeper, 201, res);
}));

router.post('/login', asyncHandler(async (req, res) => { // weak: sessions/no-throttle
  const { email, password } = req.body;
  const keeper = await Keeper.findOne({ email }); // weak: injection/nosql-operator
  if (!keeper || !(await keeper.matchPassword(password))) {
    return res.status(401).json({ message: 'wrong address or password' });
  }
  sendToken(keeper, 200, res);
}));

router.get('/logout', (req, res) => {
  res.clearCookie('token');
  res.json({ success: true });
});

router.get('/me', protect, asyncHandler(async (req, res) => {
  res.json(req.keeper);
}));

router.post('/forgot', asyncHandler(async (req, res) => {
  const keeper = await Keeper.findOne({ email: String(req.body.email) });
  if (!keeper) return res.json({ ok: true });
  const token = crypto.randomBytes(20).toString('hex');
  keeper.resetToken = crypto.createHash('sha256').update(token).digest('hex');
  keeper.resetExpires = Date.now() + 10 * 60 * 1000;
  await keeper.save();
  const url = `${req.protocol}://${req.get('host')}/api/auth/reset/${token}`; // weak: sessions/link-host-from-request
  await require('../mail').send({ to: keeper.email, text: `Reset your password: ${url}` });
  res.json({ ok: true });
}));

router.put('/reset/:token', asyncHandler(async (req, res) => {
  const hashed = crypto.createHash('sha256').update(req.params.token).digest('hex');
  const keeper = await Keeper.findOne({ resetToken: hashed, resetExpires: { $gt: Date.now() } });
  if (!keeper) return res.status(400).json({ message: 'bad token' });
  keeper.password = req.body.password;
  keeper.resetToken = undefined;
  keeper.resetExpires = undefined;
  await keeper.save();
  sendToken(keeper, 200, res);
}));

module.exports = router;
