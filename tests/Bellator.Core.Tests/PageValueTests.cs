namespace Bellator.Core.Tests;

/// <summary>How values come from code to the page that shows them, and which pages escape them. What each framework does is common practice, from memory.</summary>
public sealed class PageValueTests
{
    private const string Sinatra = """
        require "sinatra"

        get "/hives" do
          @part = params[:part]
          erb :hives
        end

        get "/near" do
          erb :near, locals: { place: params[:place], shown: 3 }
        end

        """;

    [Fact]
    public void A_page_of_Sinatra_escapes_nothing_by_itself() => Expect(
        ["views/hives.erb:1", "views/near.erb:2"],
        ("app.rb", Sinatra),
        ("views/hives.erb", "<h1>Hives like <%= @part %></h1>\n<p><%= Rack::Utils.escape_html(@part) %></p>\n"),
        ("views/near.erb", "<p><%= shown %> hives</p>\n<h1>Near <%= place %></h1>\n"));

    [Fact]
    public void A_page_of_Sinatra_escapes_where_the_program_is_set_to() => Expect(
        [],
        ("app.rb", "set :erb, escape_html: true\n" + Sinatra),
        ("views/hives.erb", "<h1>Hives like <%= @part %></h1>\n"),
        ("views/near.erb", "<h1>Near <%= place %></h1>\n"));

    [Fact]
    public void A_page_of_Sinatra_escapes_where_the_call_says_so() => Expect(
        [],
        ("app.rb", Sinatra.Replace("erb :near,", "erb :near, escape_html: true,", StringComparison.Ordinal)),
        ("views/near.erb", "<h1>Near <%= place %></h1>\n"));

    [Fact]
    public void A_part_of_a_Rails_page_knows_what_it_is_given() => Expect(
        ["app/views/hives/_line.html.erb:1", "app/views/hives/_note.html.erb:2"],
        ("app/controllers/hives_controller.rb", "class HivesController < ApplicationController\n  def index\n    @note = params[:note]\n  end\nend\n"),
        ("app/views/hives/index.html.erb", """
            <h1><%= @note %></h1>
            <%= render partial: "note", locals: { text: params[:note] } %>
            <%= render "line", text: params[:line], plain: "x" %>
            """),
        ("app/views/hives/_note.html.erb", "<p><%= text %></p>\n<p><%= raw text %></p>\n"),
        ("app/views/hives/_line.html.erb", "<p><%= text.html_safe %></p>\n<p><%= raw plain %></p>\n"));

    [Fact]
    public void A_Razor_view_reads_the_bag_that_its_action_filled() => Expect(
        ["Views/Hives/Index.cshtml:2", "Views/Hives/Index.cshtml:3"],
        ("Controllers/HivesController.cs", """
            using Microsoft.AspNetCore.Mvc;
            public class HivesController : Controller
            {
                public IActionResult Index(string note, string name)
                {
                    ViewBag.Note = note;
                    ViewData["Name"] = name;
                    ViewBag.Count = 3;
                    return View();
                }
            }
            """),
        ("Views/Hives/Index.cshtml", """
            <h1>@ViewBag.Note</h1>
            <div>@Html.Raw(ViewBag.Note)</div>
            <p>@Html.Raw(ViewData["Name"])</p>
            <p>@Html.Raw(ViewBag.Count)</p>
            <p>@ViewData["Name"]</p>
            """));

    [Fact]
    public void Either_name_of_the_bag_reads_what_was_put_in_under_the_other() => Expect(
        ["Views/Hives/Index.cshtml:1"],
        ("Controllers/HivesController.cs", "using Microsoft.AspNetCore.Mvc;\npublic class HivesController : Controller { public IActionResult Index(string note) { ViewData[\"Note\"] = note; return View(); } }\n"),
        ("Views/Hives/Index.cshtml", "<div>@Html.Raw(ViewBag.Note)</div>\n"));

    private static void Expect(string[] places, params (string Path, string Code)[] files) =>
        Assert.Equal(places, Auditor.Run(files).Findings.Where(f => f.CheckId == "injection/page-output").Select(f => $"{f.Path}:{f.Region.StartLine}").Order(StringComparer.Ordinal));
}
