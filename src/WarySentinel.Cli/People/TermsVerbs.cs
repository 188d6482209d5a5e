using System.CommandLine;
using Spectre.Console;
using WarySentinel.Contract.People;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary terms list|show|publish|set|withdraw|remove</c>.</summary>
internal static class TermsVerbs
{
    private static readonly Argument<string> Key = new("key") { Description = "The key of the terms." };
    private static readonly Argument<int> Number = new("version") { Description = "The number of the version." };
    private static readonly Argument<FileInfo> File = new("file") { Description = "The text, a file of Markdown (CommonMark)." };
    private static readonly Option<string?> Title = new("--title") { Description = "What they are called; as before where nothing is said." };
    private static readonly Option<string?> Audience = new("--for") { Description = "Whom they are asked of, as an audience (usual: signed-in)." };
    private static readonly Option<bool?> Optional = new("--optional") { Description = "Whether members come in without agreeing." };
    private static readonly Option<string?> Note = new("--note") { Description = "What is new in this version." };
    private static readonly Option<string?> From = new("--from") { Description = "From when on it counts: a day, or RFC 3339 (usual: at once)." };
    private static readonly Option<bool> Minor = new("--minor")
    {
        Description =
        "Nothing that matters has changed: whoever agreed to an older one is not asked again."
    };
    private static readonly Option<string[]> In = new("--in")
    { Description = "The text in another language: de=terms.de.md; its first heading is its title. Say it several times." };
    private static readonly Option<int?> Version = new("--version-number") { Description = "Show the text of this version." };

    public static Command Build()
    {
        var terms = new Command("terms", "Terms that members agree to, in versions.");
        terms.Subcommands.Add(new Command("list", "All terms, with the version that counts.").Does(ListAsync));
        terms.Subcommands.Add(With(new Command("show", "Versions, and how many members said what to each."), Key, Version).Does(ShowAsync));
        terms.Subcommands.Add(With(
            new Command("publish", "Publish a new version; adds the terms where there are none of that key."), Key, File, Title, Audience, Optional, Note,
                From,
            Minor, In).Does(PublishAsync));
        terms.Subcommands.Add(With(new Command("set", "Say whom terms are for; the text stays."), Key, Audience, Optional).Does(SetAsync));
        terms.Subcommands.Add(With(new Command("withdraw", "Take back a version that does not count yet."), Key, Number).Does(async call =>
        {
            await call.Client.WithdrawTermsAsync(call.Get(Key), call.Get(Number), call.Stop);
            return call.Out.Say(new { withdrawn = call.Get(Number) }, $"Took back version {call.Get(Number)} of [bold]{Markup.Escape(call.Get(Key))}[/].");
        }));
        terms.Subcommands.Add(With(new Command("remove", "Remove terms to which nobody has said anything yet."), Key).Does(async call =>
        {
            await call.Client.RemoveTermsAsync(call.Get(Key), call.Stop);
            return call.Out.Say(new { removed = call.Get(Key) }, $"Removed the terms [bold]{Markup.Escape(call.Get(Key))}[/].");
        }));
        return terms;
    }

    private static async Task<int> ListAsync(Call call) => call.Out.Table(
        await call.Client.TermsAsync(call.Stop), "No terms yet.", ("key", t => t.Terms.Key ?? ""), ("title", t => t.Terms.Title ?? ""), ("for", t => t.Who),
        ("counts", t => t.Versions.FirstOrDefault(v => v.State == "in-force") is { } v ? $"version {v.Number}, agreed {v.Agreed}" : "none yet"),
        ("needed", t => t.Terms.Optional == true ? "no" : "yes"));

    private static async Task<int> ShowAsync(Call call)
    {
        if (call.Get(Version) is { } number)
        {
            var text = await call.Client.TermsTextAsync(call.Get(Key), number, call.Stop);
            return call.Out.Give(text, to => to.WriteLine(text.Text));
        }

        var terms = await call.Client.TermsAsync(call.Get(Key), call.Stop);
        return call.Out.Table(
            terms.Versions, "No version yet.", ("version", v => v.Number.ToString(System.Globalization.CultureInfo.InvariantCulture)), ("state", v => v.State),
            ("from", v => v.From.ToString("yyyy-MM-dd HH:mm", System.Globalization.CultureInfo.InvariantCulture)), ("asks again", v => v.Minor ? "no" : "yes"),
            ("agreed", v => v.Agreed.ToString(System.Globalization.CultureInfo.InvariantCulture)),
            ("refused", v => v.Refused.ToString(System.Globalization.CultureInfo.InvariantCulture)), ("by", v => v.By), ("new", v => v.Note ?? ""));
    }

    private static async Task<int> PublishAsync(Call call)
    {
        var key = call.Get(Key);
        var there = (await call.Client.TermsAsync(call.Stop)).FirstOrDefault(t => t.Terms.Key == key);
        var (text, heading) = await ReadAsync(call.Get(File).FullName, call.Stop);
        var languages = new Dictionary<string, TermsWords>();
        foreach (var one in (call.Get(In) ?? []).Select(i => i.Split('=', 2)))
        {
            var (other, title) = await ReadAsync(one.ElementAtOrDefault(1) ?? one[0], call.Stop);
            languages[one[0]] = new TermsWords(title, other);
        }

        var draft = (there?.Terms ?? new TermsDraft { Title = heading }) with
        {
            Text = text,
            Note = call.Get(Note),
            From = call.Get(From),
            Minor = call.Get(Minor) ? true : null,
            In = languages.Count > 0 ? languages : there?.Terms.In,
        };
        draft = draft with
        {
            Title = call.Get(Title) ?? draft.Title,
            Audience = call.Get(Audience) ?? draft.Audience,
            Optional = call.Get(Optional) ?? draft.Optional,
        };
        var put = await call.Client.PutTermsAsync(key, draft, call.Stop);
        var newest = put.Versions[0];
        return call.Out.Say(put, newest.Number == there?.Versions[0].Number ? $"The text is that of version {newest.Number}; no new one was published."
            : $"Published version {newest.Number} of [bold]{Markup.Escape(key)}[/]. {Markup.Escape(newest.Address)}");
    }

    private static async Task<int> SetAsync(Call call)
    {
        var there = await call.Client.TermsAsync(call.Get(Key), call.Stop);
        var put = await call.Client.PutTermsAsync(
            call.Get(Key), there.Terms with { Audience = call.Get(Audience) ?? there.Terms.Audience, Optional = call.Get(Optional) ?? there.Terms.Optional },
            call.Stop);
        return call.Out.Say(put, $"[bold]{Markup.Escape(call.Get(Key))}[/] is asked of {Markup.Escape(put.Who)}.");
    }

    /// <summary>A text, and the title that its first heading gives it.</summary>
    private static async Task<(string Text, string? Title)> ReadAsync(string path, CancellationToken stop)
    {
        var text = await System.IO.File.ReadAllTextAsync(path, stop);
        return text.TrimStart().Split('\n', 2) is [var first, var rest] && first.StartsWith("# ", StringComparison.Ordinal)
            ? (rest.TrimStart(), first[2..].Trim()) : (text, null);
    }
}
