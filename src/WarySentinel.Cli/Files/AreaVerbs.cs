using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Contract.Files;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Files;

/// <summary><c>wary folder list|show|set|address|change-address|files|put|take|remove</c>.</summary>
internal static class AreaVerbs
{
    private static readonly Argument<string> Key = new("key") { Description = "The folder's key." };
    private static readonly Argument<string> Source = new("file") { Description = "A file on this machine." };
    private static readonly Argument<string> Name = new("name") { Description = "The file's name in the folder; with slashes, in a folder inside it." };
    private static readonly Option<string?> Item = new("--item") { Description = "The item whose files they are, such as download:sky-atlas." };
    private static readonly Option<string?> Title = new("--title") { Description = "What people call it; the title of the item unless said." };
    private static readonly Option<string?> Folder = new("--folder")
    { Description = "Where the files are, beneath the service's folder for all of them; that of its key unless said." };
    private static readonly Option<string?> Opens = new("--opens")
    { Description = "Who gets in: gate (whom the item's gates let) or address (whoever has the present address)." };
    private static readonly Option<string?> Every = new("--every")
    { Description = "How long an address lasts, such as P1W or P1M; “never” for until it is changed by hand." };
    private static readonly Option<string?> Overlap = new("--overlap")
    { Description = "How long an address still works beside the next, such as P1D or PT0S." };
    private static readonly Option<string?> Within = new("--within") { Description = "A folder inside it." };
    private static readonly Option<string?> As = new("--as") { Description = "Its name in the folder; that of the file unless said." };

    public static Command Build()
    {
        var folder = new Command("folder", "Folders to download from, each behind one address that cannot be guessed, and that changes.");
        folder.Subcommands.Add(new Command("list", "All of them.").Does(async call => List(call, await call.Client.AreasAsync(call.Stop))));
        folder.Subcommands.Add(With(new Command("show", "One of them, and what is in it."), Key).Does(ShowAsync));
        folder.Subcommands.Add(With(With(new Command("set", "Add one, or change one. Its address stays."), Key), Item, Title, Folder, Opens, Every, Overlap)
            .Does(SetAsync));
        folder.Subcommands.Add(With(new Command("address", "Say the present address. It is a secret."), Key).Does(
            async call => Told(call, await call.Client.AreaAddressAsync(call.Get(Key), call.Stop))));
        folder.Subcommands.Add(With(new Command("change-address", "Give it another address at once; those before lead nowhere from now on."), Key).Does(
            async call => Told(call, await call.Client.ChangeAreaAddressAsync(call.Get(Key), call.Stop))));
        folder.Subcommands.Add(With(With(new Command("files", "What is in it."), Key), Within).Does(FilesAsync));
        folder.Subcommands.Add(With(With(With(new Command("put", "Put a file into it, in place of one of that name."), Key), Source), As).Does(PutAsync));
        folder.Subcommands.Add(With(With(new Command("take", "Take a file out of it. The file is gone then."), Key), Name).Does(async call =>
        {
            await call.Client.RemoveAreaFileAsync(call.Get(Key), call.Get(Name), call.Stop);
            return call.Out.Say(new { removed = call.Get(Name) }, $"Removed [bold]{Markup.Escape(call.Get(Name))}[/].");
        }));
        folder.Subcommands.Add(With(new Command("remove", "Remove one. Its files stay where they are."), Key).Does(async call =>
        {
            await call.Client.RemoveAreaAsync(call.Get(Key), call.Stop);
            return call.Out.Say(new { removed = call.Get(Key) }, $"Removed the folder [bold]{Markup.Escape(call.Get(Key))}[/]. Its files stay where they are.");
        }));
        return folder;
    }

    private static int List(Call call, IReadOnlyList<AreaView> all) => call.Out.Table(
        all, "No folders to download from yet: wary folder set KEY --item download:NAME.", ("key", a => a.Key), ("title", a => a.Title), ("item", a => a.Item),
        ("opens by", a => a.Opens), ("changes every", a => a.Every ?? "by hand"),
        ("next change", a => a.Until?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture) ?? ""),
        ("files", a => a.Files is { } files ? $"{files} ({Sizes.Of(a.Bytes ?? 0)})" : "folder missing"));

    private static async Task<int> ShowAsync(Call call)
    {
        var (area, _) = await call.Client.AreaAsync(call.Get(Key), call.Stop);
        return call.Out.Give(area, to =>
        {
            to.MarkupLine($"[bold]{Markup.Escape(area.Title)}[/] ({Markup.Escape(area.Item)})");
            to.WriteLine(area.Opens != "gate" ? "Opens to whoever has its present address, signed in or not."
                : area.Guarded ? "Opens to whom the gates of its item let."
                : $"Opens to everybody: no gate guards its item. Add one, such as wary gate add --covers {area.Item}.");
            to.WriteLine(area.Every is { } every ? $"Its address changes every {every}, next on {area.Until:yyyy-MM-dd HH:mm} UTC."
                : "Its address changes by hand.");
            to.WriteLine(area.Files is { } files ? $"{files} files, {Sizes.Of(area.Bytes ?? 0)}, in {area.Path}" : $"The folder is not there yet: {area.Path}");
        });
    }

    private static async Task<int> SetAsync(Call call)
    {
        var key = call.Get(Key);
        var (old, tag) = await Call.OldAsync(call.Client.AreaAsync(key, call.Stop));
        string? Said(Option<string?> option, string? there) => call.Get(option) ?? there;
        var every = Said(Every, old?.Every);
        var draft = new AreaDraft(
            Said(Title, old?.Title), Said(Item, old?.Item), Said(Folder, old?.Folder), Said(Opens, old?.Opens), every == "never" ? null : every,
            Said(Overlap, old?.Overlap));
        var put = await call.Client.PutAreaAsync(key, draft, tag, call.Stop);
        var next = put.Files is null ? $" Put its files into {put.Path}, or: wary folder put {put.Key} FILE." : "";
        return call.Out.Say(put, $"[bold]{Markup.Escape(put.Title)}[/] opens by {put.Opens}.{Markup.Escape(next)}");
    }

    private static int Told(Call call, AreaAddressView told) => call.Out.Give(told, to =>
    {
        to.WriteLine(told.Address);
        var standing = told.Standing is { } always ? $"; {always} always leads there whoever may have it" : "";
        var until = told.Until is { } end ? $"works until {end:yyyy-MM-dd HH:mm} UTC" : "works until it is changed";
        to.MarkupLine($"[grey]{until}{Markup.Escape(standing)}[/]");
    });

    private static async Task<int> FilesAsync(Call call) => call.Out.Table(
        await call.Client.AreaFilesAsync(call.Get(Key), call.Get(Within), call.Stop), "Nothing in it yet.",
        ("name", f => f.Bytes is null ? f.Name + "/" : f.Name),
        ("size", f => f.Bytes is { } bytes ? Sizes.Of(bytes) : ""), ("changed", f => f.At.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture)));

    private static async Task<int> PutAsync(Call call)
    {
        var (path, name) = (call.Get(Source), call.Get(As) ?? Path.GetFileName(call.Get(Source)));
        if (!File.Exists(path))
        {
            return call.Out.Fail(Exit.Usage, "no-file", $"There is no file {path}.", []);
        }

        var bytes = new FileInfo(path).Length;
        await using var content = File.OpenRead(path);
        await call.Client.PutAreaFileAsync(call.Get(Key), name, content, call.Stop);
        return call.Out.Say(new { put = name, bytes }, $"Put [bold]{Markup.Escape(name)}[/] ({Sizes.Of(bytes)}) into {Markup.Escape(call.Get(Key))}.");
    }
}
