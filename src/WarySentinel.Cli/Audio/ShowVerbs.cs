using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Contract.Audio;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Audio;

/// <summary><c>wary audio list|show|set|episode|drop-episode|files|put|take|subscribers|feed|change-feed|remove</c>.</summary>
internal static class ShowVerbs
{
    private static readonly Argument<string> Key = new("key") { Description = "The key of the show's item: of show:hours-of-dark, hours-of-dark." };
    private static readonly Argument<string> Episode = new("episode") { Description = "The episode: episode:hours-01, or hours-01." };
    private static readonly Argument<string> Source = new("file") { Description = "A file on this machine." };
    private static readonly Argument<string> Name = new("name") { Description = "The file's name in the folder of the show." };
    private static readonly Argument<string> Member = new("member") { Description = "The member's e-mail address or id." };
    private static readonly Option<string?> By = new("--by") { Description = "Who makes it." };
    private static readonly Option<string?> Notes = new("--notes") { Description = "What it is about, in plain words." };
    private static readonly Option<string?> Language = new("--spoken")
    { Description = "The language that is spoken in it, such as en; the site's unless said." };
    private static readonly Option<string?> Picture = new("--picture")
    { Description = "A picture on this machine (JPEG, PNG, WebP), which is put into its folder." };
    private static readonly Option<string?> File = new("--file")
    { Description = "A file on this machine, which is put into the folder of the show; or the name of one that is there." };
    private static readonly Option<string?> At = new("--at") { Description = "Since when it is out: a day or a moment; now unless said." };
    private static readonly Option<string?> Length = new("--length") { Description = "How long it lasts, such as 42:10." };
    private static readonly Option<string?> As = new("--as") { Description = "Its name in the folder; that of the file unless said." };

    public static Command Build()
    {
        var show = new Command("audio", "Shows: their episodes, heard on a page and by each member's own feed.");
        show.Subcommands.Add(new Command("list", "All of them.").Does(async call => List(call, await call.Client.ShowsAsync(call.Stop))));
        show.Subcommands.Add(With(new Command("show", "One of them, with its episodes."), Key).Does(
            async call => Told(call, (await call.Client.ShowAsync(call.Get(Key), call.Stop)).Value)));
        show.Subcommands.Add(With(With(new Command("set", "Add one, or change what is told of one."), Key), By, Notes, Language, Picture).Does(SetAsync));
        show.Subcommands.Add(With(With(With(new Command("episode", "Add an episode, or change one."), Key), Episode), File, At, Notes, Length)
            .Does(EpisodeAsync));
        show.Subcommands.Add(With(With(new Command("drop-episode", "Take an episode out. Its file stays where it is."), Key), Episode).Does(DropAsync));
        show.Subcommands.Add(With(new Command("files", "What is in its folder."), Key).Does(async call => call.Out.Table(
            await call.Client.ShowFilesAsync(call.Get(Key), call.Stop), "Nothing in it yet.", ("name", f => f.Name),
            ("size", f => f.Bytes is { } bytes ? Sizes.Of(bytes) : ""),
            ("changed", f => f.At.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture)))));
        show.Subcommands.Add(With(With(With(new Command("put", "Put a file into its folder, in place of one of that name."), Key), Source), As).Does(
            async call => await PutAsync(call, call.Get(Source), call.Get(As)) is { } name
                ? call.Out.Say(new { put = name }, $"Put [bold]{Markup.Escape(name)}[/] into the folder of {Markup.Escape(call.Get(Key))}.")
                : call.Out.Fail(Exit.Usage, "no-file", $"There is no file {call.Get(Source)}.", [])));
        show.Subcommands.Add(With(With(new Command("take", "Take a file out of its folder. The file is gone then."), Key), Name).Does(async call =>
        {
            await call.Client.RemoveShowFileAsync(call.Get(Key), call.Get(Name), call.Stop);
            return call.Out.Say(new { removed = call.Get(Name) }, $"Removed [bold]{Markup.Escape(call.Get(Name))}[/].");
        }));
        show.Subcommands.Add(With(new Command("subscribers", "Who has a feed of it, and when that was last read."), Key).Does(SubscribersAsync));
        show.Subcommands.Add(With(With(new Command("feed", "Say the feed address of a member, made where they have none yet. It is a secret."), Key), Member)
            .Does(async call => Told(call, await call.Client.FeedAsync(call.Get(Key), call.Get(Member), call.Stop))));
        var change = new Command("change-feed", "Give a member another feed address; the one before leads nowhere from now on.");
        show.Subcommands.Add(With(With(change, Key), Member).Does(
            async call => Told(call, await call.Client.ChangeFeedAsync(call.Get(Key), call.Get(Member), call.Stop))));
        show.Subcommands.Add(With(new Command("remove", "Remove one. Its files stay where they are, its feeds lead nowhere."), Key).Does(async call =>
        {
            await call.Client.RemoveShowAsync(call.Get(Key), call.Stop);
            return call.Out.Say(new { removed = call.Get(Key) }, $"Removed the show [bold]{Markup.Escape(call.Get(Key))}[/]. Its files stay where they are.");
        }));
        return show;
    }

    private static int List(Call call, IReadOnlyList<ShowView> all) => call.Out.Table(
        all, "No shows yet: wary audio set KEY, where show:KEY is an item.", ("key", s => s.Key), ("title", s => s.Title),
        ("episodes", s => s.Episodes.Count.ToString(CultureInfo.InvariantCulture)), ("newest", s => s.Episodes.Count > 0 ? s.Episodes[0].Day : ""),
        ("guarded", s => s.Guarded ? "yes" : "open to everybody"), ("feeds", s => s.Subscribers.ToString(CultureInfo.InvariantCulture)));

    private static int Told(Call call, ShowView show) => call.Out.Give(show, to =>
    {
        to.MarkupLine($"[bold]{Markup.Escape(show.Title)}[/] at {Markup.Escape(show.Address)}");
        to.WriteLine(show.Guarded ? "Heard by whom its gates let."
            : $"Heard by everybody: no gate guards it. Add one, such as wary gate add --covers show:{show.Key}.");
        to.WriteLine($"{show.Subscribers} with a feed of their own. Files are in {show.Path}");
        var table = new Table().Border(TableBorder.Simple).AddColumns("episode", "title", "out", "length", "file", "");
        foreach (var e in show.Episodes)
        {
            table.AddRow(
                Markup.Escape(e.Item), Markup.Escape(e.Title), e.IsOut ? e.Day : $"from {e.Day}", e.Length ?? "", Markup.Escape(e.File),
                e.Bytes is { } bytes ? Sizes.Of(bytes) : "[red]missing[/]");
        }

        to.Write(table);
    });

    private static int Told(Call call, FeedView feed) => call.Out.Give(feed, to =>
    {
        to.WriteLine(feed.Address);
        var read = feed.ReadAt is { } at ? $"last read {at:yyyy-MM-dd HH:mm} UTC" + (feed.ReadBy is { } by ? $" by {by}" : "") : "never read yet";
        to.MarkupLine($"[grey]theirs since {feed.Since:yyyy-MM-dd HH:mm} UTC; {Markup.Escape(read)}[/]");
    });

    private static async Task<int> SetAsync(Call call)
    {
        var key = call.Get(Key);
        var (old, tag) = await Call.OldAsync(call.Client.ShowAsync(key, call.Stop));
        var draft = new ShowDraft(
            call.Get(By) ?? old?.By, call.Get(Notes) ?? old?.Notes, call.Get(Language) ?? old?.Language, old?.Picture);
        var put = await call.Client.PutShowAsync(key, draft, tag, call.Stop);
        if (call.Get(Picture) is { } picture)
        {
            // Its folder is there once the show is.
            if (await PutAsync(call, picture, null) is not { } name)
            {
                return call.Out.Fail(Exit.Usage, "no-file", $"There is no file {picture}.", []);
            }

            put = await call.Client.PutShowAsync(key, draft with { Picture = name }, $"\"{put.Version}\"", call.Stop);
        }

        var next = put.Episodes.Count == 0 ? $" Add its episodes: wary audio episode {put.Key} EPISODE --file FILE." : "";
        return call.Out.Say(put, $"[bold]{Markup.Escape(put.Title)}[/] is heard at {Markup.Escape(put.Address)}.{Markup.Escape(next)}");
    }

    private static async Task<int> EpisodeAsync(Call call)
    {
        var (key, id) = (call.Get(Key), IdOf(call.Get(Episode)));
        var (show, tag) = await call.Client.ShowAsync(key, call.Stop);
        var old = show.Episodes.FirstOrDefault(e => e.Item == id);
        var file = call.Get(File) ?? old?.File;
        if (call.Get(File) is { } source && System.IO.File.Exists(source))
        {
            file = await PutAsync(call, source, null);
        }

        var draft = new EpisodeDraft(
            id, file, call.Get(At) ?? (old is null ? null : Moment(old.At)), call.Get(Notes) ?? old?.Notes, call.Get(Length) ?? old?.Length);
        var put = await call.Client.PutShowAsync(key, Of(show, id, draft), tag, call.Stop);
        var there = put.Episodes.First(e => e.Item == id);
        return call.Out.Say(
            there, $"[bold]{Markup.Escape(there.Title)}[/] is {(there.IsOut ? "out" : $"out from {there.Day}")}"
                + (there.Bytes is null ? $", once its file is there: wary audio put {Markup.Escape(key)} FILE --as {Markup.Escape(there.File)}." : "."));
    }

    private static async Task<int> DropAsync(Call call)
    {
        var (key, id) = (call.Get(Key), IdOf(call.Get(Episode)));
        var (show, tag) = await call.Client.ShowAsync(key, call.Stop);
        if (show.Episodes.All(e => e.Item != id))
        {
            return call.Out.Fail(Exit.NotFound, "no-episode", $"{key} has no episode {id}.", []);
        }

        await call.Client.PutShowAsync(key, Of(show, id, null), tag, call.Stop);
        return call.Out.Say(new { removed = id }, $"Took [bold]{Markup.Escape(id)}[/] out. Its file stays where it is.");
    }

    private static async Task<int> SubscribersAsync(Call call)
    {
        var all = new List<SubscriberView>();
        string? cursor = null;
        do
        {
            var page = await call.Client.SubscribersAsync(call.Get(Key), cursor, call.Stop);
            all.AddRange(page.Items);
            cursor = page.Next;
        }
        while (cursor is not null);
        return call.Out.Table(
            all, "Nobody has a feed of it yet.", ("member", s => s.Email), ("name", s => s.Name), ("since", s => Day(s.Since)),
            ("last read", s => s.ReadAt?.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture) ?? "never"), ("by", s => s.ReadBy ?? ""));
    }

    /// <summary>The draft of a show as it is, with one episode put in, in place of what it was, or taken out.</summary>
    private static ShowDraft Of(ShowView show, string id, EpisodeDraft? one) => new(
        show.By, show.Notes, show.Language, show.Picture,
        [
            .. show.Episodes.Where(e => e.Item != id).Select(e => new EpisodeDraft(e.Item, e.File, Moment(e.At), e.Notes, e.Length)),
            .. one is null ? Array.Empty<EpisodeDraft>() : [one],
        ]);

    /// <summary>Puts a file into the folder of the show, and gives the name that it has there; null where there is no such file on this machine.</summary>
    private static async Task<string?> PutAsync(Call call, string path, string? name)
    {
        if (!System.IO.File.Exists(path))
        {
            return null;
        }

        name ??= Path.GetFileName(path);
        await using var content = System.IO.File.OpenRead(path);
        await call.Client.PutShowFileAsync(call.Get(Key), name, content, call.Stop);
        return name;
    }

    private static string IdOf(string typed) => typed.Contains(':', StringComparison.Ordinal) ? typed : "episode:" + typed;

    private static string Moment(DateTimeOffset at) => at.UtcDateTime.ToString("yyyy-MM-ddTHH:mm:ssZ", CultureInfo.InvariantCulture);

    private static string Day(DateTimeOffset at) => at.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
}
