using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Bellator.Audit.Auditing;

namespace Bellator.Audit.Reports;

/// <summary>Writes the addresses of an application as an OpenAPI 3.1.0 document (OpenAPI Initiative, February 2021; structure from memory).</summary>
public static partial class OpenApiReport
{
    private static readonly string[] Methods = ["get", "put", "post", "delete", "options", "head", "patch", "trace"];

    public static string Write(ReportedSurface surface, string name, string version)
    {
        var paths = new JsonObject();
        foreach (var group in surface.Entries.GroupBy(e => Plain(e.Path), StringComparer.Ordinal))
        {
            var item = new JsonObject();
            foreach (var entry in group)
            {
                // A route for any method is shown as the one that its handler most likely answers to.
                var method = entry.Method == "*" ? entry.Inputs.Any(i => i.Part is "form" or "body") ? "post" : "get" : entry.Method.ToLowerInvariant();
                if (Methods.Contains(method) && !item.ContainsKey(method))
                {
                    item[method] = Operation(entry, group.Key);
                }
            }

            if (item.Count > 0)
            {
                paths[group.Key] = item;
            }
        }

        return new JsonObject
        {
            ["openapi"] = "3.1.0",
            ["info"] = new JsonObject { ["title"] = name, ["version"] = "0", ["description"] = $"Read from the source by Bellator {version}; nothing was run." },
            ["paths"] = paths,
            ["components"] = new JsonObject
            {
                ["securitySchemes"] = new JsonObject { ["signIn"] = new JsonObject { ["type"] = "apiKey", ["in"] = "cookie", ["name"] = "session", ["description"] = "Stands for whatever the application keeps people signed in by." } },
            },
        }.ToJsonString(JsonReport.Indented);
    }

    private static JsonObject Operation(ReportedEntry entry, string path)
    {
        var operation = new JsonObject
        {
            ["summary"] = entry.Handler,
            ["description"] = $"{entry.Declared.Path}:{entry.Declared.Region.StartLine}" + (entry.Guards.Count == 0 ? "" : "; on the way: " + string.Join(", ", entry.Guards.Select(g => g.Name))),
        };
        var parameters = new JsonArray();
        foreach (Match parameter in Parameter().Matches(path))
        {
            parameters.Add(Described(parameter.Groups[1].Value, "path", true));
        }

        foreach (var input in entry.Inputs.Where(i => i.Name.Length > 0 && i.Part is "query" or "header" or "cookie").DistinctBy(i => (i.Part, i.Name)))
        {
            parameters.Add(Described(input.Name, input.Part, false));
        }

        if (parameters.Count > 0)
        {
            operation["parameters"] = parameters;
        }

        var body = entry.Inputs.Where(i => i.Part is "form" or "body" or "upload" or "input").ToList();
        if (body.Count > 0 && entry.Method is not ("GET" or "HEAD" or "DELETE"))
        {
            var properties = new JsonObject();
            foreach (var field in body.Where(i => i.Name.Length > 0).Select(i => i.Name).Distinct(StringComparer.Ordinal))
            {
                properties[field] = new JsonObject();
            }

            var kind = body.Exists(i => i.Part == "body") ? "application/json" : body.Exists(i => i.Part == "upload") ? "multipart/form-data" : "application/x-www-form-urlencoded";
            operation["requestBody"] = new JsonObject { ["content"] = new JsonObject { [kind] = new JsonObject { ["schema"] = new JsonObject { ["type"] = "object", ["properties"] = properties } } } };
        }

        operation["responses"] = new JsonObject { ["default"] = new JsonObject { ["description"] = entry.Answers.Count > 0 ? string.Join("; ", entry.Answers) : "not known" } };
        if (entry.SignIn == "needed")
        {
            operation["security"] = new JsonArray(new JsonObject { ["signIn"] = new JsonArray() });
        }

        return operation;
    }

    private static JsonObject Described(string name, string place, bool required)
    {
        var parameter = new JsonObject { ["name"] = name, ["in"] = place, ["schema"] = new JsonObject() };
        if (required)
        {
            parameter["required"] = true;
        }

        return parameter;
    }

    /// <summary>What is not known of a path becomes a parameter.</summary>
    private static string Plain(string path) => path.Replace("{…}", "{unknown}", StringComparison.Ordinal);

    [GeneratedRegex(@"\{(\w+)\}", RegexOptions.None, 200)]
    private static partial Regex Parameter();
}
