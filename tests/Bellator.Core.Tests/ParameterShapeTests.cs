namespace Bellator.Core.Tests;

/// <summary>A handler that is handed on before it is registered is recognised by what it does, not by what its parameters are called.</summary>
public sealed class ParameterShapeTests
{
    [Theory]
    [InlineData("(request, result) => pool.query(text + request.query.tag).then(rows => result.json(rows))", true)]
    [InlineData("(request, answer) => pool.query(text + request.query.tag).then(rows => answer.json(rows))", true)]
    [InlineData("(q, a) => pool.query(text + q.body.tag).then(rows => a.send(rows))", true)]
    [InlineData("async (anfrage, antwort) => { const rows = await pool.query(text + anfrage.params.tag); antwort.status(200).json(rows); }", true)]
    [InlineData("function (ctx, out, next) { pool.query(text + ctx.query.tag, (e, rows) => { if (e) { return next(e); } out.render('hives', { rows }); }); }", true)]
    [InlineData("(options, callback) => pool.query(text + options.query.tag).then(rows => callback(null, rows))", false)]
    [InlineData("(node, writer) => { pool.query(text + node.name); writer.write('x'); }", false)]
    [InlineData("(request, result) => pool.query('SELECT 1 FROM hive WHERE tag = $1', [request.query.tag]).then(rows => result.json(rows))", false)]
    public void Whatever_the_parameters_are_called(string handler, bool isFound)
    {
        var code = $"const {{ Pool }} = require('pg');\nconst pool = new Pool();\nconst text = 'SELECT * FROM hive WHERE tag = ';\nexports.list = {handler};\n";
        Assert.Equal(isFound, Auditor.Run(("hives.js", code)).Findings.Any(f => f.CheckId == "injection/sql"));
    }
}
