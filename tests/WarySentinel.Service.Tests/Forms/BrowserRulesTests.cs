using System.Diagnostics;
using System.Text.Json;
using Shouldly;
using WarySentinel.Core.People.Forms;
using WarySentinel.Core.Tests.People.Forms;
using WarySentinel.Service.Pages;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>The browser shows the very fields that the service takes answers of: its own script, run by Node, against Core on forms that are made up.</summary>
public sealed class BrowserRulesTests
{
    private const int Trials = 4000;

    private const string Script = """
        import { readFileSync } from 'node:fs';
        import { shown } from './forms.mjs';
        const cases = JSON.parse(readFileSync(process.argv[2], 'utf8'));
        console.log(JSON.stringify(cases.map(({ rules, typed }) => shown(JSON.parse(rules), (key) => typed[key] ?? []))));
        """;

    [Fact]
    public async Task The_browser_shows_what_the_service_takes_answers_of()
    {
        var cases = Enumerable.Range(0, Trials).Select(seed =>
        {
            var made = new RandomForms(seed + 100_000);
            var fields = made.Fields();
            var book = new FormBook([.. fields.Select(f => new Kept<FieldDraft>(f, 1))], [new Kept<FormDraft>(made.Form(fields), 1)]);
            return (Form: book.Forms[0], Typed: made.Typed(fields));
        }).ToList();
        var said = await RunAsync(JsonSerializer.Serialize(cases.Select(c => new { rules = FormAnswers.RulesOf(c.Form), typed = c.Typed })));
        var answers = JsonSerializer.Deserialize<List<Shown>>(said, JsonSerializerOptions.Web)!;
        for (var i = 0; i < Trials; i++)
        {
            var (form, typed) = cases[i];
            var filled = FilledForm.Of(form, key => typed.GetValueOrDefault(key) ?? []);
            answers[i].Fields.ShouldBe(form.Placed.Where(p => filled.Shows(p.Field.Key)).Select(p => p.Field.Key), $"trial {i}");
            answers[i].Sections.ShouldBe(Enumerable.Range(0, form.SectionConditions.Count).Where(s => filled.ShowsSection(form, s)), $"trial {i}");
        }
    }

    private static async Task<string> RunAsync(string cases)
    {
        var folder = Directory.CreateTempSubdirectory("wary-rules-").FullName;
        try
        {
            await using (var script = typeof(FormAnswers).Assembly.GetManifestResourceStream("WarySentinel.Service.Assets.forms.js")!)
            await using (var to = File.Create(Path.Combine(folder, "forms.mjs")))
            {
                await script.CopyToAsync(to);
            }

            await File.WriteAllTextAsync(Path.Combine(folder, "run.mjs"), Script);
            await File.WriteAllTextAsync(Path.Combine(folder, "cases.json"), cases);
            using var node = Process.Start(new ProcessStartInfo("node", ["run.mjs", "cases.json"])
            { WorkingDirectory = folder, RedirectStandardOutput = true, RedirectStandardError = true })!;
            var (said, wrong) = (node.StandardOutput.ReadToEndAsync(), node.StandardError.ReadToEndAsync());
            await node.WaitForExitAsync();
            node.ExitCode.ShouldBe(0, await wrong);
            return await said;
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    }

    private sealed record Shown(IReadOnlyList<string> Fields, IReadOnlyList<int> Sections);
}
