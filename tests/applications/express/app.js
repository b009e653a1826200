const express = require('express');
const session = require('express-session');
const helmet = require('helmet');
const rateLimit = require('express-rate-limit');
const mongoose = require('mongoose');
const accounts = require('./routes/accounts');
const hives = require('./routes/hives');
const swarms = require('./routes/swarms');
const { requireKeeper } = require('./middleware/auth');

mongoose.connect(process.env.MONGO_URL);

const app = express();
app.set('view engine', 'ejs');
app.use(helmet());
app.use(express.json());
app.use(express.urlencoded({ extended: true }));
app.use(session({ secret: process.env.SESSION_SECRET, resave: false, saveUninitialized: false, cookie: { secure: true, sameSite: 'lax' } }));

app.use('/accounts', rateLimit({ windowMs: 60_000, limit: 10 }), accounts);
app.use('/hives', requireKeeper, hives);
app.use('/swarms', swarms);

app.use((error, req, res, next) => {
  console.error(error);
  res.status(500).json({ error: 'something went wrong' });
});

module.exports = app;
