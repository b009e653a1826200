namespace Bellator.Core.Tests;

/// <summary>
/// One weak and one right use of each library that the facts describe, as an application would write it. The forms are those of
/// the libraries' documentation, from memory.
/// </summary>
public sealed class LibraryTests
{
    [Theory]
    [InlineData("Nitro, better-sqlite3", "server/api/hives.get.ts", "import Database from 'better-sqlite3';\nconst db = new Database('bees.db');\nexport default defineEventHandler((event) => {\n  const q = getQuery(event);\n  return db.prepare(`SELECT * FROM hives WHERE name = '${q.name}'`).all();\n});\n", "injection/sql")]
    [InlineData("Nitro, better-sqlite3", "server/api/hives.get.ts", "import Database from 'better-sqlite3';\nconst db = new Database('bees.db');\nexport default defineEventHandler((event) => {\n  const q = getQuery(event);\n  return db.prepare('SELECT * FROM hives WHERE name = ?').all(q.name);\n});\n", "")]
    [InlineData("Knex", "app.js", "const express = require('express'); const app = express(); const knex = require('knex')({ client: 'pg' });\napp.get('/', async (req, res) => { res.json(await knex('hives').whereRaw(`name = '${req.query.name}'`)); });\n", "injection/sql")]
    [InlineData("Knex", "app.js", "const express = require('express'); const app = express(); const knex = require('knex')({ client: 'pg' });\napp.get('/', async (req, res) => { res.json(await knex('hives').select('id').where({ name: String(req.query.name) })); });\n", "")]
    [InlineData("Knex", "app.js", "const express = require('express'); const app = express(); const knex = require('knex')({ client: 'pg' });\napp.get('/', async (req, res) => { res.json(await knex.raw('SELECT id FROM hives WHERE name = ?', [req.query.name])); });\n", "")]
    [InlineData("Drizzle", "app.ts", "import { drizzle } from 'drizzle-orm/node-postgres';\nimport { sql } from 'drizzle-orm';\nimport express from 'express';\nconst db = drizzle(process.env.DATABASE_URL!);\nconst app = express();\napp.get('/', async (req, res) => { res.json(await db.execute(sql.raw(`SELECT id FROM hives WHERE name = '${req.query.name}'`))); });\n", "injection/sql")]
    [InlineData("Drizzle", "app.ts", "import { drizzle } from 'drizzle-orm/node-postgres';\nimport { sql } from 'drizzle-orm';\nimport express from 'express';\nconst db = drizzle(process.env.DATABASE_URL!);\nconst app = express();\napp.get('/', async (req, res) => { res.json(await db.execute(sql`SELECT id FROM hives WHERE name = ${req.query.name}`)); });\n", "")]
    [InlineData("Prisma", "app.ts", "import { PrismaClient } from '@prisma/client';\nimport express from 'express';\nconst prisma = new PrismaClient();\nconst app = express();\napp.get('/', async (req, res) => { res.json(await prisma.$queryRawUnsafe(`SELECT id FROM hives WHERE name = '${req.query.name}'`)); });\n", "injection/sql")]
    [InlineData("Prisma", "app.ts", "import { PrismaClient } from '@prisma/client';\nimport express from 'express';\nconst prisma = new PrismaClient();\nconst app = express();\napp.get('/', async (req, res) => { res.json(await prisma.$queryRaw`SELECT id FROM hives WHERE name = ${req.query.name}`); });\n", "")]
    [InlineData("mysql2", "app.js", "const express = require('express'); const app = express(); const mysql = require('mysql2/promise'); const pool = mysql.createPool({});\napp.get('/', async (req, res) => { const [rows] = await pool.query('SELECT id FROM hives ORDER BY ' + req.query.sort); res.json(rows); });\n", "injection/sql")]
    [InlineData("mysql2", "app.js", "const express = require('express'); const app = express(); const mysql = require('mysql2/promise'); const pool = mysql.createPool({});\napp.get('/', async (req, res) => { const [rows] = await pool.execute('SELECT id FROM hives WHERE name = ?', [req.query.name]); res.json(rows); });\n", "")]
    [InlineData("TypeORM", "app.ts", "import { DataSource } from 'typeorm';\nimport express from 'express';\nimport { Hive } from './hive';\nconst source = new DataSource({});\nconst app = express();\napp.get('/', async (req, res) => { res.json(await source.getRepository(Hive).createQueryBuilder('h').where(`h.name = '${req.query.name}'`).getMany()); });\n", "injection/")]
    [InlineData("TypeORM", "app.ts", "import { DataSource } from 'typeorm';\nimport express from 'express';\nimport { Hive } from './hive';\nconst source = new DataSource({});\nconst app = express();\napp.get('/', async (req, res) => { res.json(await source.getRepository(Hive).createQueryBuilder('h').where('h.name = :name', { name: req.query.name }).getMany()); });\n", "")]
    public void JavaScript(string library, string path, string code, string expected) => Expect(library, path, code, expected);

    [Theory]
    [InlineData("Starlette, asyncpg", "import asyncpg\nfrom starlette.applications import Starlette\nfrom starlette.responses import JSONResponse\nfrom starlette.routing import Route\n\nasync def hives(request):\n    conn = await asyncpg.connect()\n    rows = await conn.fetch(f\"SELECT id FROM hives WHERE name = '{request.query_params['name']}'\")\n    return JSONResponse([dict(r) for r in rows])\n\napp = Starlette(routes=[Route('/hives', hives)])\n", "injection/sql")]
    [InlineData("Starlette, asyncpg", "import asyncpg\nfrom starlette.applications import Starlette\nfrom starlette.responses import JSONResponse\nfrom starlette.routing import Route\n\nasync def hives(request):\n    conn = await asyncpg.connect()\n    rows = await conn.fetch('SELECT id FROM hives WHERE name = $1', request.query_params['name'])\n    return JSONResponse([dict(r) for r in rows])\n\napp = Starlette(routes=[Route('/hives', hives)])\n", "")]
    [InlineData("FastAPI, psycopg", "import psycopg\nfrom fastapi import FastAPI\napp = FastAPI()\n\n@app.get('/hives')\ndef hives(name: str):\n    with psycopg.connect('') as conn:\n        return conn.execute(f\"SELECT id FROM hives WHERE name = '{name}'\").fetchall()\n", "injection/sql")]
    [InlineData("FastAPI, psycopg", "import psycopg\nfrom fastapi import FastAPI\napp = FastAPI()\n\n@app.get('/hives')\ndef hives(name: str):\n    with psycopg.connect('') as conn:\n        return conn.execute('SELECT id FROM hives WHERE name = %s', (name,)).fetchall()\n", "")]
    [InlineData("FastAPI", "import psycopg\nfrom fastapi import FastAPI\napp = FastAPI()\n\n@app.get('/hives/{number}')\ndef hive(number: int):\n    with psycopg.connect('') as conn:\n        return conn.execute(f'SELECT id FROM hives WHERE id = {number}').fetchall()\n", "")]
    [InlineData("Flask, PyMongo", "from flask import Flask, request, jsonify\nfrom pymongo import MongoClient\napp = Flask(__name__)\ndb = MongoClient().bees\n\n@app.post('/find')\ndef find():\n    return jsonify(list(db.hives.find({'owner': request.json['owner']})))\n", "injection/nosql-operator")]
    [InlineData("Flask, PyMongo", "from flask import Flask, request, jsonify\nfrom pymongo import MongoClient\napp = Flask(__name__)\ndb = MongoClient().bees\n\n@app.post('/find')\ndef find():\n    return jsonify(list(db.hives.find({'owner': str(request.json['owner'])})))\n", "")]
    [InlineData("SQLAlchemy", "from flask import Flask, request\nfrom sqlalchemy import create_engine, text\napp = Flask(__name__)\nengine = create_engine('')\n\n@app.get('/hives')\ndef hives():\n    with engine.connect() as conn:\n        return str(conn.execute(text(\"SELECT id FROM hives WHERE name = '%s'\" % request.args['name'])).all())\n", "injection/sql")]
    [InlineData("SQLAlchemy", "from flask import Flask, request\nfrom sqlalchemy import create_engine, text\napp = Flask(__name__)\nengine = create_engine('')\n\n@app.get('/hives')\ndef hives():\n    with engine.connect() as conn:\n        rows = conn.execute(text('SELECT id FROM hives WHERE name = :name'), {'name': request.args['name']}).all()\n        return {'ids': [r.id for r in rows]}\n", "")]
    public void Python(string library, string code, string expected) => Expect(library, "app.py", code, expected);

    [Theory]
    [InlineData("Sinatra, Sequel", "require 'sinatra'\nrequire 'sequel'\nDB = Sequel.connect(ENV['DATABASE_URL'])\nget '/hives' do\n  DB[\"SELECT id FROM hives WHERE name = '#{params[:name]}'\"].all.to_json\nend\n", "injection/sql")]
    [InlineData("Sinatra, Sequel", "require 'sinatra'\nrequire 'sequel'\nDB = Sequel.connect(ENV['DATABASE_URL'])\nget '/hives' do\n  DB['SELECT id FROM hives WHERE name = ?', params[:name].to_s].all.to_json\nend\n", "")]
    [InlineData("Sinatra", "require 'sinatra'\nget '/hive' do\n  redirect params[:to]\nend\n", "injection/redirect")]
    public void Ruby(string library, string code, string expected) => Expect(library, "app.rb", code, expected);

    [Theory]
    [InlineData("Yii 2", "class HiveController extends \\yii\\web\\Controller { public function actionFind() { return \\Yii::$app->db->createCommand(\"SELECT id FROM hive WHERE name = '\" . \\Yii::$app->request->get('name') . \"'\")->queryAll(); } }", "injection/sql")]
    [InlineData("Yii 2", "class HiveController extends \\yii\\web\\Controller { public function actionFind() { return \\Yii::$app->db->createCommand('SELECT id FROM hive WHERE name = :name', [':name' => \\Yii::$app->request->get('name')])->queryAll(); } }", "")]
    [InlineData("PDO", "$db = new PDO('sqlite:bees.db'); foreach ($db->query(\"SELECT id FROM hive WHERE name = '{$_GET['name']}'\") as $row) { echo (int) $row['id']; }", "injection/sql")]
    [InlineData("PDO", "$db = new PDO('sqlite:bees.db'); $q = $db->prepare('SELECT id FROM hive WHERE name = :name'); $q->execute(['name' => $_GET['name']]); foreach ($q as $row) { echo (int) $row['id']; }", "")]
    [InlineData("Doctrine DBAL", "use Doctrine\\DBAL\\Connection; class Hives { public function __construct(private Connection $db) {} public function find() { return $this->db->fetchAllAssociative(\"SELECT id FROM hive WHERE name = '\" . $_GET['name'] . \"'\"); } }", "injection/sql")]
    [InlineData("Doctrine DBAL", "use Doctrine\\DBAL\\Connection; class Hives { public function __construct(private Connection $db) {} public function find() { return $this->db->fetchAllAssociative('SELECT id FROM hive WHERE name = ?', [$_GET['name']]); } }", "")]
    [InlineData("objects merged", "function with_defaults($given) { return array_merge(['title' => 'Hives', 'context' => ''], $given); } $o = with_defaults(['place' => $_GET['place']]); echo $o['title']; echo $o['context'];", "")]
    [InlineData("objects merged", "function with_defaults($given) { return array_merge(['title' => 'Hives', 'context' => ''], $given); } $o = with_defaults(['place' => $_GET['place']]); echo $o['place'];", "injection/page-output")]
    public void Php(string library, string code, string expected) => Expect(library, "app.php", "<?php\n" + code + "\n", expected);

    [Theory]
    [InlineData("Dapper", "using Dapper; using Microsoft.AspNetCore.Mvc; using Npgsql; public class HiveController : Controller { public IActionResult Find(string name) { using var db = new NpgsqlConnection(\"\"); return Json(db.Query<int>(\"SELECT id FROM hive WHERE name = '\" + name + \"'\")); } }", "injection/sql")]
    [InlineData("Dapper", "using Dapper; using Microsoft.AspNetCore.Mvc; using Npgsql; public class HiveController : Controller { public IActionResult Find(string name) { using var db = new NpgsqlConnection(\"\"); return Json(db.Query<int>(\"SELECT id FROM hive WHERE name = @name\", new { name })); } }", "")]
    [InlineData("EF Core", "using Microsoft.AspNetCore.Mvc; using Microsoft.EntityFrameworkCore; public class Hive { public int Id { get; set; } } public class Bees : DbContext { public DbSet<Hive> Hives { get; set; } } public class HiveController(Bees bees) : Controller { public IActionResult Find(string name) => Json(bees.Hives.FromSqlRaw($\"SELECT * FROM hive WHERE name = '{name}'\").ToList()); }", "injection/sql")]
    [InlineData("EF Core", "using Microsoft.AspNetCore.Mvc; using Microsoft.EntityFrameworkCore; public class Hive { public int Id { get; set; } } public class Bees : DbContext { public DbSet<Hive> Hives { get; set; } } public class HiveController(Bees bees) : Controller { public IActionResult Find(string name) => Json(bees.Hives.FromSqlInterpolated($\"SELECT * FROM hive WHERE name = {name}\").ToList()); }", "")]
    public void CSharp(string library, string code, string expected) => Expect(library, "HiveController.cs", code + "\n", expected);

    private static void Expect(string library, string path, string code, string expected)
    {
        var found = Auditor.Run((path, code)).Findings.Where(f => f.Area == "injection").Select(f => f.CheckId).Distinct().ToList();
        Assert.True(expected.Length == 0 ? found.Count == 0 : found.Exists(f => f.StartsWith(expected, StringComparison.Ordinal)), $"{library}: {(found.Count == 0 ? "nothing" : string.Join(", ", found))} found");
    }
}
