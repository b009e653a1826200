require('dotenv').config();
const express = require('express');
const mongoose = require('mongoose');
const cookieParser = require('cookie-parser');
const app = express();

mongoose.connect(process.env.MONGO_URL);
app.use(express.json());
app.use(express.urlencoded({ extended: true }));
app.use(cookieParser());
app.use('/api/auth', require('./routes/auth'));
app.use('/api/hives', require('./routes/hives'));
app.use('/api/keepers', require('./routes/keepers'));
app.use((err, req, res, next) => {
  console.error(err);
  res.status(500).json({ message: 'something failed' });
});
app.listen(process.env.PORT || 3000);
