namespace Bellator.Core.Tests;

/// <summary>Who is let past a comparison with the person: records without an owner, requests that say so, conditions that are not always there. Common practice.</summary>
public sealed class OwnershipExceptionTests
{
    private const string Node = """
        import express from 'express';
        import mongoose from 'mongoose';
        import jwt from 'jsonwebtoken';

        const Hive = mongoose.model('Hive', new mongoose.Schema({ keeper: { type: mongoose.Types.ObjectId, ref: 'Member' }, place: String, status: String }));
        const Member = mongoose.model('Member', new mongoose.Schema({ email: String, passwordHash: String, role: String }));
        const app = express();
        app.use(express.json());
        app.use((req, res, next) => {
          try {
            req.user = jwt.verify(req.get('authorization').slice(7), process.env.KEY, { algorithms: ['HS256'] });
          } catch {
            return res.status(401).end();
          }
          next();
        });

        app.get('/hives', async (req, res) => res.json(await Hive.find({ keeper: req.user.id }).lean()));

        """;

    private static bool Says(string check, params (string Path, string Code)[] files) => Auditor.Run(files).Findings.Any(f => f.CheckId == check);

    private static bool OfNode(string check, string body) => Says(check, ("app.js", Node + body + "\n"));

    [Theory]
    [InlineData("if (hive.keeper && !hive.keeper.equals(req.user.id)) return res.sendStatus(403);", true)]
    [InlineData("if (hive.keeper && String(hive.keeper) !== req.user.id) return res.sendStatus(403);", false)]
    [InlineData("if (hive.keeper && hive.keeper !== req.user.id) { return res.sendStatus(403); }", true)]
    [InlineData("if (hive.keeper != null && hive.keeper !== req.user.id) throw new Error('no');", true)]
    [InlineData("if (!hive.keeper || hive.keeper !== req.user.id) return res.sendStatus(403);", false)]
    [InlineData("if (!hive.keeper) return res.sendStatus(404); if (hive.keeper !== req.user.id) return res.sendStatus(403);", false)]
    [InlineData("if (!(hive.keeper && hive.keeper === req.user.id)) return res.sendStatus(403);", false)]
    [InlineData("if (!hive.keeper || hive.keeper === req.user.id) { return res.json(hive); } return res.sendStatus(403);", true)]
    [InlineData("if (hive.status && hive.keeper !== req.user.id) return res.sendStatus(403);", false)]
    public void Records_without_an_owner(string test, bool isWeak) => Assert.Equal(isWeak, OfNode("records/owner-may-be-null", $$"""
        app.get('/hives/:id', async (req, res) => {
          const hive = await Hive.findById(req.params.id);
          {{test}}
          res.json(hive);
        });
        """));

    [Theory]
    [InlineData("if ($hive['keeper_id'] !== null && $hive['keeper_id'] !== $_SESSION['member_id']) { http_response_code(403); exit; }", "keeper_id int", true)]
    [InlineData("if (isset($hive['keeper_id']) && $hive['keeper_id'] != $_SESSION['member_id']) { http_response_code(403); exit; }", "keeper_id int", true)]
    [InlineData("if ($hive['keeper_id'] && $hive['keeper_id'] != $_SESSION['member_id']) { http_response_code(403); exit; }", "keeper_id int NOT NULL", false)]
    [InlineData("if ($hive['keeper_id'] != $_SESSION['member_id']) { http_response_code(403); exit; }", "keeper_id int", false)]
    public void Records_without_an_owner_in_php(string test, string column, bool isWeak) => Assert.Equal(isWeak, Says(
        "records/owner-may-be-null",
        ("schema.sql", $"CREATE TABLE members (id int PRIMARY KEY, email varchar(200), password_hash varchar(255));\nCREATE TABLE hives (id int PRIMARY KEY, {column}, place text);\n"),
        ("hives.php", "<?php\nsession_start();\nif (!isset($_SESSION['member_id'])) { header('Location: /'); exit; }\n$all = $db->prepare('SELECT * FROM hives WHERE keeper_id = ?');\n$all->execute([$_SESSION['member_id']]);\n"),
        ("hive.php", $$"""
            <?php
            session_start();
            if (!isset($_SESSION['member_id'])) { header('Location: /'); exit; }
            $found = $db->prepare('SELECT * FROM hives WHERE id = ?');
            $found->execute([$_GET['id']]);
            $hive = $found->fetch(PDO::FETCH_ASSOC);
            {{test}}
            echo json_encode(['place' => $hive['place']]);
            """)));

    [Theory]
    [InlineData("if (req.body.asInspector !== true && req.params.id !== req.user.id) return res.sendStatus(403);", true)]
    [InlineData("const desk = req.query.desk === '1'; if (!desk && req.params.id !== req.user.id) { return res.sendStatus(403); }", true)]
    [InlineData("if (req.headers['x-desk'] || req.params.id === req.user.id) { await Member.updateOne({ _id: req.params.id }, { $set: { place: String(req.body.place) } }); return res.end(); } return res.sendStatus(403);", true)]
    [InlineData("if (req.user.role !== 'inspector' && req.params.id !== req.user.id) return res.sendStatus(403);", false)]
    [InlineData("if (req.params.id && req.params.id !== req.user.id) return res.sendStatus(403);", false)]
    [InlineData("if (req.params.id !== req.user.id) return res.sendStatus(403); if (!req.body.place) return res.sendStatus(400);", false)]
    public void What_the_request_says_of_itself(string test, bool isWeak) => Assert.Equal(isWeak, OfNode("records/check-skipped-if-asked", $$"""
        app.patch('/members/:id', async (req, res) => {
          {{test}}
          await Member.updateOne({ _id: req.params.id }, { $set: { place: String(req.body.place) } });
          res.end();
        });
        """));

    [Theory]
    [InlineData("const filter = { place: 'x' }; if (req.query.scope !== 'all') filter.keeper = req.user.id;", true)]
    [InlineData("const filter = req.query.mine ? { keeper: req.user.id } : {};", true)]
    [InlineData("const filter = { keeper: req.user.id, ...req.query };", true)]
    [InlineData("const filter = { ...req.query, keeper: req.user.id };", false)]
    [InlineData("const filter = { keeper: req.user.id, ...{ place: String(req.query.place) } };", false)]
    [InlineData("const filter = { keeper: req.user.id }; if (req.query.place) filter.place = String(req.query.place);", false)]
    [InlineData("const filter = {}; if (req.user.role !== 'inspector') filter.keeper = req.user.id;", false)]
    public void Conditions_that_are_not_always_there(string filter, bool isWeak) => Assert.Equal(isWeak, OfNode("records/limited-only-if-asked", $$"""
        app.get('/hives/some', async (req, res) => {
          {{filter}}
          res.json(await Hive.find(filter).lean());
        });
        """));

    /// <summary>What holds on one way only is not said to hold.</summary>
    [Fact]
    public void A_condition_by_role_is_unclear()
    {
        var result = Auditor.Run(("app.js", Node + "app.get('/hives/some', async (req, res) => {\n  const filter = {};\n  if (req.user.role !== 'inspector') filter.keeper = req.user.id;\n  res.json(await Hive.find(filter).lean());\n});\n"));
        Assert.Equal("unclear", Assert.Single(result.Records.Uses, r => r.Path == "/hives/some").Rows);
    }
}
