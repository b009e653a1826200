namespace Bellator.Core.Tests;

/// <summary>Validation that really narrows a value before the place of harm, and validation that does not. What each library does is common practice, from memory.</summary>
public sealed class ValidationTests
{
    private const string Zod = "const { z } = require('zod'); const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();\nconst S = z.object({ id: z.coerce.number().int(), name: z.string().min(1), sort: z.enum(['a', 'b']), ref: z.string().regex(/^[A-Z]{2}\\d+$/), key: z.string().uuid().optional() });\n";
    private const string Joi = "const Joi = require('joi'); const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();\nconst S = Joi.object({ id: Joi.number().integer().required(), name: Joi.string().max(9), sort: Joi.string().valid('a', 'b') });\n";
    private const string Chains = "const { body, query, checkSchema, validationResult, matchedData } = require('express-validator'); const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();\nconst validate = (req, res, next) => { const errors = validationResult(req); if (!errors.isEmpty()) return res.status(422).json({}); next(); };\n";
    private const string Mvc = "using System.ComponentModel.DataAnnotations; using Microsoft.AspNetCore.Mvc;\npublic class Entry { [RegularExpression(\"[a-z]+\")] public string Code { get; set; } [StringLength(20)] public string Name { get; set; } [AllowedValues(\"a\", \"b\")] public string Sort { get; set; } }\n";

    [Theory]
    [InlineData("const d = S.parse(req.body); pool.query(`DELETE FROM t WHERE a = '${d.name}'`);", true)]
    [InlineData("const d = S.parse(req.body); pool.query(`DELETE FROM t WHERE a = ${d.id} ORDER BY ${d.sort}`);", false)]
    [InlineData("const d = S.parse(req.body); pool.query(`DELETE FROM t WHERE a = '${d.ref}' AND k = '${d.key}'`);", false)]
    [InlineData("const r = S.safeParse(req.body); if (!r.success) return res.sendStatus(400); pool.query(`DELETE FROM t WHERE a = ${r.data.id}`);", false)]
    [InlineData("const r = S.safeParse(req.body); if (!r.success) return res.sendStatus(400); pool.query(`DELETE FROM t WHERE a = '${r.data.name}'`);", true)]
    [InlineData("const r = S.safeParse(req.body); if (!r.success) return res.sendStatus(400); pool.query(`DELETE FROM t WHERE a = ${req.body.id}`);", false)]
    [InlineData("const r = S.safeParse(req.body); if (!r.success) console.log('odd'); pool.query(`DELETE FROM t WHERE a = ${req.body.id}`);", true)]
    [InlineData("const r = S.safeParse(req.body); if (!r.success) return res.sendStatus(400); pool.query(`DELETE FROM t WHERE a = ${req.query.id}`);", true)]
    [InlineData("S.parse(req.body); pool.query(`DELETE FROM t WHERE a = ${req.body.id}`);", false)]
    [InlineData("pool.query(`DELETE FROM t WHERE a = ${req.body.id}`); S.parse(req.body);", true)]
    [InlineData("const d = z.array(z.number()).parse(req.body.ids); pool.query(`DELETE FROM t WHERE a IN (${d.join(',')})`);", false)]
    [InlineData("const d = z.array(z.string()).parse(req.body.ids); pool.query(`DELETE FROM t WHERE a IN (${d.join(',')})`);", true)]
    [InlineData("const d = S.extend({ day: z.string() }).parse(req.body); pool.query(`DELETE FROM t WHERE a = '${d.day}'`);", true)]
    [InlineData("const d = z.string().regex(/[a-z]+/).parse(req.body.x); pool.query(`DELETE FROM t WHERE a = '${d}'`);", true)]
    [InlineData("const d = z.string().refine((v) => ['a', 'b'].includes(v)).parse(req.body.x); pool.query(`DELETE FROM t ORDER BY ${d}`);", false)]
    public void Zod_schemas(string body, bool weak) => Check("app.js", Zod + "app.post('/', async (req, res) => { " + body + " });\n", weak);

    [Theory]
    [InlineData("const { error, value } = S.validate(req.body); if (error) return res.sendStatus(400); pool.query(`DELETE FROM t WHERE a = ${value.id}`);", false)]
    [InlineData("const { error, value } = S.validate(req.body); pool.query(`DELETE FROM t WHERE a = ${value.id}`);", true)]
    [InlineData("const { error, value } = S.validate(req.body); if (error) return res.sendStatus(400); pool.query(`DELETE FROM t WHERE a = '${value.name}'`);", true)]
    [InlineData("const { error } = S.validate(req.body); if (error !== undefined) throw error; pool.query(`DELETE FROM t ORDER BY ${req.body.sort}`);", false)]
    [InlineData("const d = await S.validateAsync(req.body); pool.query(`DELETE FROM t ORDER BY ${d.sort}`);", false)]
    [InlineData("const d = Joi.attempt(req.body, S); pool.query(`DELETE FROM t ORDER BY ${d.sort}`);", false)]
    public void Joi_schemas(string body, bool weak) => Check("app.js", Joi + "app.post('/', async (req, res) => { " + body + " });\n", weak);

    [Theory]
    [InlineData("const check = (schema) => (req, res, next) => { const { error } = schema.validate(req.body); if (error) return res.sendStatus(400); next(); };\napp.post('/', check(S), (req, res) => pool.query(`DELETE FROM t WHERE a = ${req.body.id}`));", false)]
    [InlineData("const check = (schema) => (req, res, next) => { const { error } = schema.validate(req.body); if (error) return res.sendStatus(400); next(); };\napp.post('/', check(S), (req, res) => pool.query(`DELETE FROM t WHERE a = '${req.body.name}'`));", true)]
    [InlineData("const check = (schema) => (req, res, next) => { const { error } = schema.validate(req.body); if (error) console.log(error); next(); };\napp.post('/', check(S), (req, res) => pool.query(`DELETE FROM t WHERE a = ${req.body.id}`));", true)]
    [InlineData("const check = (schema) => (req, res, next) => { const { error } = schema.validate(req.body); if (error) return res.sendStatus(400); next(); };\napp.post('/', (req, res) => pool.query(`DELETE FROM t WHERE a = ${req.body.id}`), check(S));", true)]
    public void Middleware_that_checks(string code, bool weak) => Check("app.js", Joi + code + "\n", weak);

    [Theory]
    [InlineData("app.post('/', [body('id').isInt(), body('name').trim()], (req, res) => { const e = validationResult(req); if (!e.isEmpty()) return res.sendStatus(422); pool.query(`DELETE FROM t WHERE a = ${req.body.id}`); });", false)]
    [InlineData("app.post('/', [body('id').isInt(), body('name').trim()], (req, res) => { const e = validationResult(req); if (!e.isEmpty()) return res.sendStatus(422); pool.query(`DELETE FROM t WHERE a = '${req.body.name}'`); });", true)]
    [InlineData("app.post('/', [body('id').isInt()], (req, res) => { pool.query(`DELETE FROM t WHERE a = ${req.body.id}`); });", true)]
    [InlineData("app.post('/', body('id').isInt(), validate, (req, res) => { pool.query(`DELETE FROM t WHERE a = ${req.body.id}`); });", false)]
    [InlineData("app.post('/', checkSchema({ id: { in: ['body'], isInt: true } }), validate, (req, res) => { pool.query(`DELETE FROM t WHERE a = ${req.body.id}`); });", false)]
    [InlineData("app.post('/', checkSchema({ id: { in: 'query', isInt: true } }), validate, (req, res) => { pool.query(`DELETE FROM t WHERE a = ${req.body.id}`); });", true)]
    [InlineData("app.post('/:id', checkSchema({ id: { in: 'params', isInt: { errorMessage: 'no' } } }), validate, (req, res) => { pool.query(`DELETE FROM t WHERE a = ${req.params.id}`); });", false)]
    [InlineData("app.post('/', checkSchema({ sort: { matches: { options: /^[a-z]+$/ } } }, ['body']), validate, (req, res) => { pool.query(`SELECT 1 FROM t ORDER BY ${req.body.sort}`); });", false)]
    [InlineData("app.post('/', checkSchema({ sort: { matches: { options: [/[a-z]+/] } } }, ['body']), validate, (req, res) => { pool.query(`SELECT 1 FROM t ORDER BY ${req.body.sort}`); });", true)]
    [InlineData("app.post('/', checkSchema({ sort: { isString: true, isLength: { options: { max: 9 } } } }, ['body']), validate, (req, res) => { pool.query(`SELECT 1 FROM t ORDER BY ${req.body.sort}`); });", true)]
    [InlineData("app.post('/', checkSchema({ id: { isInt: true } }, ['body']), (req, res) => { pool.query(`DELETE FROM t WHERE a = ${req.body.id}`); });", true)]
    [InlineData("app.post('/', body('id').isInt(), validate, (req, res) => { pool.query(`DELETE FROM t WHERE a = ${req.query.id}`); });", true)]
    [InlineData("app.post('/', [body('sort').isIn(['a', 'b']), validate], (req, res) => { const { sort } = matchedData(req); pool.query(`DELETE FROM t ORDER BY ${sort}`); });", false)]
    [InlineData("app.post('/', [body('sort').notEmpty(), validate], (req, res) => { const { sort } = matchedData(req); pool.query(`DELETE FROM t ORDER BY ${sort}`); });", true)]
    public void Chains_of_a_route(string code, bool weak) => Check("app.js", Chains + code + "\n", weak);

    [Theory]
    [InlineData("const app = require('fastify')(); app.get('/', { schema: { querystring: { type: 'object', properties: { id: { type: 'integer' }, n: { type: 'string' } } } } }, async (request) => pool.query(`DELETE FROM t WHERE a = ${request.query.id}`));", false)]
    [InlineData("const app = require('fastify')(); app.get('/', { schema: { querystring: { type: 'object', properties: { id: { type: 'integer' }, n: { type: 'string' } } } } }, async (request) => pool.query(`DELETE FROM t WHERE a = '${request.query.n}'`));", true)]
    [InlineData("const Hapi = require('@hapi/hapi'); const server = Hapi.server({ port: 1 }); server.route({ method: 'GET', path: '/', handler: (request, h) => pool.query(`DELETE FROM t WHERE a = '${request.query.n}'`) });", true)]
    [InlineData("const Hapi = require('@hapi/hapi'); const Joi = require('joi'); const server = Hapi.server({ port: 1 }); server.route({ method: 'GET', path: '/', options: { validate: { query: Joi.object({ n: Joi.number() }) }, handler: (request, h) => pool.query(`DELETE FROM t WHERE a = ${request.query.n}`) } });", false)]
    [InlineData("const Hapi = require('@hapi/hapi'); const Joi = require('joi'); const server = Hapi.server({ port: 1 }); server.route({ method: 'GET', path: '/', options: { validate: { query: Joi.object({ n: Joi.string() }) }, handler: (request, h) => pool.query(`DELETE FROM t WHERE a = '${request.query.n}'`) } });", true)]
    [InlineData("const Hapi = require('@hapi/hapi'); const server = Hapi.server({ port: 1 }); server.route([{ method: 'GET', path: '/', handler: (request, h) => pool.query(`DELETE FROM t WHERE a = '${request.query.n}'`) }]);", true)]
    public void Schemas_of_a_route(string code, bool weak) => Check("app.js", "const { Pool } = require('pg'); const pool = new Pool();\n" + code + "\n", weak);

    [Theory]
    [InlineData("public class C : Controller { SqlConnection _c; public IActionResult Add(Entry e) { if (!ModelState.IsValid) return BadRequest(); _c.Execute($\"DELETE FROM t WHERE a = '{e.Code}'\"); return Ok(); } }", false)]
    [InlineData("public class C : Controller { SqlConnection _c; public IActionResult Add(Entry e) { _c.Execute($\"DELETE FROM t WHERE a = '{e.Code}'\"); return Ok(); } }", true)]
    [InlineData("public class C : Controller { SqlConnection _c; public IActionResult Add(Entry e) { if (!ModelState.IsValid) return BadRequest(); _c.Execute($\"DELETE FROM t WHERE a = '{e.Name}'\"); return Ok(); } }", true)]
    [InlineData("[ApiController] public class C : ControllerBase { SqlConnection _c; [HttpPost] public IActionResult Add(Entry e) { _c.Execute($\"DELETE FROM t ORDER BY {e.Sort}\"); return Ok(); } }", false)]
    [InlineData("public class IndexModel : PageModel { SqlConnection _c; [BindProperty] public Entry Input { get; set; } public IActionResult OnPost() { if (!ModelState.IsValid) { return Page(); } _c.Execute($\"DELETE FROM t ORDER BY {Input.Sort}\"); return Page(); } }", false)]
    [InlineData("public class IndexModel : PageModel { SqlConnection _c; [BindProperty] public Entry Input { get; set; } public IActionResult OnPost() { _c.Execute($\"DELETE FROM t ORDER BY {Input.Sort}\"); return Page(); } }", true)]
    [InlineData("public class V : AbstractValidator<Entry> { public V() { RuleFor(x => x.Name).NotEmpty().Matches(\"^[a-z]+$\"); } } public class C : Controller { SqlConnection _c; V _v; public IActionResult Add(Entry e) { var r = _v.Validate(e); if (!r.IsValid) return BadRequest(); _c.Execute($\"DELETE FROM t WHERE a = '{e.Name}'\"); return Ok(); } }", false)]
    [InlineData("public class V : AbstractValidator<Entry> { public V() { RuleFor(x => x.Name).NotEmpty().MaximumLength(9); } } public class C : Controller { SqlConnection _c; V _v; public IActionResult Add(Entry e) { var r = _v.Validate(e); if (!r.IsValid) return BadRequest(); _c.Execute($\"DELETE FROM t WHERE a = '{e.Name}'\"); return Ok(); } }", true)]
    [InlineData("public class V : AbstractValidator<Entry> { public V() { RuleFor(x => x.Name).NotEmpty().Matches(\"^[a-z]+$\"); } } public class C : Controller { SqlConnection _c; readonly IValidator<Entry> _v; public C(IValidator<Entry> v) { _v = v; } public async Task<IActionResult> Add(Entry e) { var r = await _v.ValidateAsync(e); if (!r.IsValid) return BadRequest(); _c.Execute($\"DELETE FROM t WHERE a = '{e.Name}'\"); return Ok(); } }", false)]
    [InlineData("public class V : AbstractValidator<Entry> { public V() { RuleFor(x => x.Name).NotEmpty().Matches(\"^[a-z]+$\"); } } public class C : Controller { SqlConnection _c; readonly IValidator<Entry> _v; public C(IValidator<Entry> v) { _v = v; } public async Task<IActionResult> Add(Entry e) { await _v.ValidateAsync(e); _c.Execute($\"DELETE FROM t WHERE a = '{e.Name}'\"); return Ok(); } }", true)]
    [InlineData("public class V : AbstractValidator<Entry> { public V() { RuleFor(x => x.Name).NotEmpty(); } } public class C : Controller { SqlConnection _c; readonly IValidator<Entry> _v; public C(IValidator<Entry> v) { _v = v; } public async Task<IActionResult> Add(Entry e) { await _v.ValidateAndThrowAsync(e); _c.Execute($\"DELETE FROM t WHERE a = '{e.Name}'\"); return Ok(); } }", true)]
    public void CSharp_models(string code, bool weak) => Check("C.cs", Mvc + code + "\n", weak);

    [Theory]
    [InlineData("public function go(Request $request) { $d = $request->validate(['id' => 'required|integer', 'sort' => 'in:a,b', 'name' => 'required|string|max:9']); DB::select('SELECT 1 FROM t WHERE a = ' . $d['id'] . ' ORDER BY ' . $d['sort']); }", false)]
    [InlineData("public function go(Request $request) { $d = $request->validate(['name' => 'required|string|max:9']); DB::select(\"SELECT 1 FROM t WHERE a = '\" . $d['name'] . \"'\"); }", true)]
    [InlineData("public function go(Request $request) { $request->validate(['id' => ['required', 'integer']]); DB::select('SELECT 1 FROM t WHERE a = ' . $request->input('id')); }", false)]
    [InlineData("public function go(Request $request) { $request->validate(['id' => 'required|integer']); DB::select('SELECT 1 FROM t WHERE a = ' . $request->id); }", false)]
    [InlineData("public function go(Request $request) { $request->validate(['id' => 'required|integer']); DB::select('SELECT 1 FROM t WHERE a = ' . $request->input('other')); }", true)]
    [InlineData("public function go(AddRequest $request) { DB::select('SELECT 1 FROM t WHERE a = ' . $request->validated()['id']); }", false)]
    [InlineData("public function go(AddRequest $request) { DB::select('SELECT 1 FROM t WHERE a = ' . $request->input('id')); }", false)]
    [InlineData("public function go(AddRequest $request) { DB::select(\"SELECT 1 FROM t WHERE a = '\" . $request->validated()['name'] . \"'\"); }", true)]
    public void Laravel_rules(string method, bool weak) => Check("app/C.php", "<?php use Illuminate\\Http\\Request; use Illuminate\\Support\\Facades\\DB; class AddRequest extends \\Illuminate\\Foundation\\Http\\FormRequest { public function rules() { return ['id' => 'required|integer', 'name' => 'string']; } } class C extends \\Illuminate\\Routing\\Controller { " + method + " }\n", weak);

    [Theory]
    [InlineData("#[Assert\\Regex('/^[a-z]+$/')] public string $name;", "#[MapRequestPayload] Dto $dto", false)]
    [InlineData("#[Assert\\Regex(pattern: '/^[a-z]+$/', message: 'no')] public string $name;", "#[MapQueryString] Dto $dto", false)]
    [InlineData("#[Assert\\Regex('/[a-z]+/')] public string $name;", "#[MapRequestPayload] Dto $dto", true)]
    [InlineData("#[Assert\\Choice(['a', 'b'])] public string $name;", "#[MapRequestPayload] Dto $dto", false)]
    [InlineData("#[Assert\\NotBlank] #[Assert\\Length(max: 40)] public string $name;", "#[MapRequestPayload] Dto $dto", true)]
    [InlineData("public int $name;", "#[MapRequestPayload] Dto $dto", false)]
    public void Symfony_marks(string member, string parameter, bool weak) => Check("src/C.php", "<?php namespace App\\Controller; use Symfony\\Bundle\\FrameworkBundle\\Controller\\AbstractController; use Symfony\\Component\\Validator\\Constraints as Assert; use Symfony\\Component\\HttpKernel\\Attribute\\MapRequestPayload; use Doctrine\\DBAL\\Connection; class Dto { " + member + " } class C extends AbstractController { public function __construct(private Connection $db) {} #[Route('/add', methods: ['POST'])] public function add(" + parameter + ") { $this->db->executeQuery(\"SELECT 1 FROM t WHERE a = '\" . $dto->name . \"'\"); } }\n", weak);

    [Theory]
    [InlineData("from django import forms\nfrom django.db import connection\nclass F(forms.Form):\n    n = forms.CharField()\n    i = forms.IntegerField()\ndef v(request):\n    f = F(request.POST)\n    if f.is_valid():\n        connection.cursor().execute('SELECT 1 FROM t WHERE a = %s' % f.cleaned_data['i'])\n", false)]
    [InlineData("from django import forms\nfrom django.db import connection\nclass F(forms.Form):\n    n = forms.CharField()\n    i = forms.IntegerField()\ndef v(request):\n    f = F(request.POST)\n    if f.is_valid():\n        connection.cursor().execute(\"SELECT 1 FROM t WHERE a = '%s'\" % f.cleaned_data['n'])\n", true)]
    [InlineData("from rest_framework import serializers\nfrom rest_framework.views import APIView\nfrom django.db import connection\nclass S(serializers.Serializer):\n    n = serializers.CharField()\nclass V(APIView):\n    def post(self, request):\n        s = S(data=request.data)\n        s.is_valid(raise_exception=True)\n        connection.cursor().execute(\"SELECT 1 FROM t WHERE a = '%s'\" % s.validated_data['n'])\n", true)]
    [InlineData("from rest_framework import serializers\nfrom rest_framework.views import APIView\nfrom django.db import connection\nclass S(serializers.Serializer):\n    n = serializers.ChoiceField(choices=['a'])\nclass V(APIView):\n    def post(self, request):\n        s = S(data=request.data)\n        s.is_valid(raise_exception=True)\n        connection.cursor().execute(\"SELECT 1 FROM t WHERE a = '%s'\" % s.validated_data['n'])\n", false)]
    [InlineData("from fastapi import FastAPI\nfrom pydantic import BaseModel, Field\nimport sqlite3\nclass Job(BaseModel):\n    name: str\n    code: str = Field(..., pattern='^[a-z]+$')\napp = FastAPI()\n@app.post('/x')\ndef x(job: Job):\n    sqlite3.connect('x').execute(f\"SELECT 1 FROM t WHERE a = '{job.code}'\")\n", false)]
    [InlineData("from fastapi import FastAPI\nfrom pydantic import BaseModel, Field\nfrom typing import Literal\nimport sqlite3\nclass Job(BaseModel):\n    name: str\n    sort: Literal['a', 'b']\napp = FastAPI()\n@app.post('/x')\ndef x(job: Job):\n    sqlite3.connect('x').execute(f'SELECT 1 FROM t ORDER BY {job.sort}')\n", false)]
    [InlineData("from fastapi import FastAPI\nfrom pydantic import BaseModel, Field\nimport sqlite3\nclass Job(BaseModel):\n    name: str = Field(max_length=9)\napp = FastAPI()\n@app.post('/x')\ndef x(job: Job):\n    sqlite3.connect('x').execute(f\"SELECT 1 FROM t WHERE a = '{job.name}'\")\n", true)]
    public void Python_forms(string code, bool weak) => Check("views.py", code, weak);

    [Theory]
    [InlineData("@IsInt() id: number; @Matches(/^[a-z]+$/) code: string; name: string;", "code", false)]
    [InlineData("@IsInt() id: number; @IsString() name: string;", "name", true)]
    public void Nest_members(string members, string read, bool weak) => Check("c.ts", "import { Controller, Post, Body } from '@nestjs/common'; import { DataSource } from 'typeorm';\nclass Dto { " + members + " }\n@Controller('x') export class C { constructor(private dataSource: DataSource) {} @Post() add(@Body() dto: Dto) { return this.dataSource.query(`DELETE FROM t WHERE a = '${dto." + read + "}'`); } }", weak);

    private static void Check(string path, string code, bool weak)
    {
        var found = Auditor.Run((path, code)).Findings.Where(f => f.Area == "injection").Select(f => f.CheckId).Distinct().ToList();
        Assert.Equal(weak ? ["injection/sql"] : [], found);
    }
}
