using System.CommandLine;
using System.Globalization;
using CsvHelper;
using Spectre.Console;
using WarySentinel.Contract;
using WarySentinel.Contract.Passwords;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Passwords;

/// <summary><c>wary pass add|list|show|set|renew|rotate|withdraw|import</c>: names with passwords that belong to no account.</summary>
internal static class PassVerbs
{
    private static readonly Argument<string> Kind = new("kind") { Description = "The key of its kind; gates admit it by pass:KEY." };
    private static readonly Argument<string> Which = new("pass") { Description = "Its sign-in name, or its id." };
    private static readonly Argument<string> File = new("file")
    {
        Description = "A CSV file with the columns kind and holder, and any of name, email, from, "
        + "until, most-uses, most-networks, send; - reads standard input."
    };
    private static readonly Option<string?> OfKind = new("--kind") { Description = "Only of this kind." };
    private static readonly Option<string?> Search = new("--search") { Description = "Words of names, holders and addresses." };
    private static readonly Option<string?> Standing = new("--standing") { Description = "in-force, later, over, used-up or withdrawn." };
    private static readonly Option<string?> Holder = new("--for") { Description = "Whose it is." };
    private static readonly Option<string?> Name = new("--name") { Description = "The sign-in name; made of its kind where it is left out." };
    private static readonly Option<string?> Email = new("--email") { Description = "The e-mail address of whoever has it; none takes it away." };
    private static readonly Option<string?> From = new("--from") { Description = "Start: a day in the site's time zone, or a time; none takes it away." };
    private static readonly Option<string?> Until = new("--until") { Description = "End: the last day that counts, or a time; none takes it away." };
    private static readonly Option<string?> MostUses = new("--most-uses") { Description = "How often it is used at most; none takes the bound away." };
    private static readonly Option<string?> MostNetworks = new("--most-networks")
    { Description = "From how many networks within 30 days it is used at most; none takes the bound away." };
    private static readonly Option<bool> Send = new("--send") { Description = "Send it to that address." };
    private static readonly Option<string?> Overlap = new("--overlap")
    { Description = "How long the password before works as well: P2D is two days (usual), PT0S ends it at once." };
    private static readonly Option<bool> DryRun = new("--dry-run") { Description = "Only look the file through." };

    public static Command Build()
    {
        var pass = new Command("pass", "Passes: a sign-in name with a generated password, and no account. Told once, never read back.");
        pass.Subcommands.Add(With(With(new Command("add", "Make a pass."), Kind), Holder, Name, Email, From, Until, MostUses, MostNetworks, Send)
            .Does(AddAsync));
        pass.Subcommands.Add(With(new Command("list", "Passes, with their use, the newest first."), OfKind, Search, Standing).Does(ListAsync));
        pass.Subcommands.Add(With(new Command("show", "One pass."), Which).Does(ShowAsync));
        pass.Subcommands.Add(With(With(new Command("set", "Change whose it is, its dates and bounds; what is not said stays."), Which), OfKind, Holder, Email,
            From, Until, MostUses, MostNetworks).Does(SetAsync));
        pass.Subcommands.Add(With(With(new Command("renew", "Give it another end, or none: --until none."), Which), Until).Does(RenewAsync));
        pass.Subcommands.Add(With(With(new Command("rotate", "Give it another password; the one before works on for a while."), Which), Overlap, Send)
            .Does(RotateAsync));
        pass.Subcommands.Add(With(new Command("withdraw", "Withdraw it; whoever is in by it is out at once."), Which).Does(WithdrawAsync));
        pass.Subcommands.Add(With(With(new Command("import", "Make the passes of a file, all or none, and write them with their passwords as CSV."), File),
            DryRun)
            .Does(ImportAsync));
        return pass;
    }

    private static async Task<int> AddAsync(Call call)
    {
        var made = await call.Client.AddPassAsync(
            new PassDraft(call.Get(Kind), call.Get(Holder), call.Get(Name), Said(call.Get(Email)), Said(call.Get(From)), Said(call.Get(Until)),
                Number(call.Get(MostUses), "--most-uses"), Number(call.Get(MostNetworks), "--most-networks"), call.Get(Send)), call.Stop);
        return Told(call, made, $"Made the pass [bold]{Markup.Escape(made.Name)}[/] for {Markup.Escape(made.Holder)}.");
    }

    private static async Task<int> RotateAsync(Call call)
    {
        var fresh = await call.Client.RotatePassAsync(call.Get(Which), call.Get(Overlap), call.Get(Send), call.Stop);
        return Told(call, fresh, $"The pass [bold]{Markup.Escape(fresh.Name)}[/] has another password"
            + (fresh.OldUntil is { } until ? $"; the one before works until {until:u}." : "; the one before works no longer."));
    }

    private static int Told(Call call, PassView made, string line) => call.Out.Give(made, to =>
    {
        to.MarkupLine(line);
        if (made.Text is { } text)
        {
            to.MarkupLine($"[grey]{made.Bits} random bits. Ready to send; it is not told again:[/]");
            to.WriteLine();
            foreach (var part in text.Reveal().Split('\n'))
            {
                Console.Out.WriteLine(part.Length == 0 ? "" : "  " + part);
            }
        }
    });

    private static async Task<int> ListAsync(Call call)
    {
        var (all, cursor) = (new List<PassView>(), (string?)null);
        do
        {
            var page = await call.Client.PassesAsync(call.Get(OfKind), call.Get(Search), call.Get(Standing), cursor, call.Stop);
            all.AddRange(page.Items);
            cursor = page.Next;
        }
        while (cursor is not null);
        return call.Out.Table(
            all, "No passes yet.", ("name", p => p.Name), ("for", p => p.Holder), ("kind", p => p.Kind), ("stands", p => p.Standing), ("uses", Uses),
            ("networks", Networks), ("last used", p => p.LastUsedAt?.ToString("u") ?? "never"), ("until", p => p.UntilText ?? ""));
    }

    private static async Task<int> ShowAsync(Call call)
    {
        var (pass, _) = await call.Client.PassAsync(call.Get(Which), call.Stop);
        return call.Out.Give(pass, to =>
        {
            to.MarkupLine($"[bold]{Markup.Escape(pass.Name)}[/]  pass:{Markup.Escape(pass.Kind)} ({Markup.Escape(pass.KindTitle)}), {pass.Standing}");
            foreach (var line in new[]
            {
                "for " + pass.Holder + (pass.Email is null ? "" : $" <{pass.Email}>"), pass.FromText is null ? null : "from " + pass.FromText,
                pass.UntilText is null ? "without an end" : "until " + pass.UntilText, "uses: " + Uses(pass), "networks within 30 days: " + Networks(pass),
                "last used: " + (pass.LastUsedAt?.ToString("u") ?? "never"), pass.OldUntil is { } old ? $"the password before works until {old:u}" : null,
                pass.Order is null ? null : "by the order " + pass.Order,
            }.OfType<string>())
            {
                to.WriteLine(line);
            }
        });
    }

    private static async Task<int> SetAsync(Call call)
    {
        var (pass, tag) = await call.Client.PassAsync(call.Get(Which), call.Stop);
        var set = await call.Client.SetPassAsync(
            call.Get(Which), new PassDraft(
                call.Get(OfKind) ?? pass.Kind, call.Get(Holder) ?? pass.Holder, null, call.Get(Email) is { } email ? Said(email) : pass.Email,
                call.Get(From) is { } from ? Said(from) : pass.From?.ToString("O"), call.Get(Until) is { } until ? Said(until) : pass.Until?.ToString("O"),
                call.Get(MostUses) is { } uses ? Number(uses, "--most-uses") : pass.MostUses,
                call.Get(MostNetworks) is { } networks ? Number(networks, "--most-networks") : pass.MostNetworks), tag!, call.Stop);
        return call.Out.Say(set, $"Changed the pass [bold]{Markup.Escape(set.Name)}[/].");
    }

    private static async Task<int> RenewAsync(Call call)
    {
        var set = await call.Client.RenewPassAsync(call.Get(Which), call.Get(Until) is "none" ? "never" : call.Get(Until), call.Stop);
        return call.Out.Say(set, $"The pass [bold]{Markup.Escape(set.Name)}[/] is good "
            + (set.UntilText is { } until ? $"until {Markup.Escape(until)}." : "without an end."));
    }

    private static async Task<int> WithdrawAsync(Call call)
    {
        var ended = await call.Client.WithdrawPassAsync(call.Get(Which), call.Stop);
        return call.Out.Say(ended, $"Withdrew the pass [bold]{Markup.Escape(ended.Name)}[/]. Whoever was in by it is out.");
    }

    private static async Task<int> ImportAsync(Call call)
    {
        await using var csv = call.Get(File) == "-" ? Console.OpenStandardInput() : System.IO.File.OpenRead(call.Get(File));
        var done = await call.Client.ImportPassesAsync(csv, call.Get(DryRun), call.Stop);
        if (done.Faults.Count > 0)
        {
            foreach (var fault in done.Faults)
            {
                Console.Error.WriteLine($"line {fault.Line}, {fault.Field}: {fault.Message}");
            }

            Console.Error.WriteLine("None of them was made.");
            return 2;
        }

        return call.Out.Give(done, to =>
        {
            if (!done.Stored)
            {
                to.WriteLine(done.Rows == 1 ? "1 pass would be made." : $"{done.Rows} passes would be made.");
                return;
            }

            using var rows = new CsvWriter(Console.Out, CultureInfo.InvariantCulture, true);
            rows.WriteRecords(done.Passes.Select(p => new
            {
                name = p.Name, password = p.Password?.Reveal(), holder = p.Holder, kind = p.Kind,
                until = p.UntilText
            }));
        });
    }

    private static string Uses(PassView p) => p.MostUses is { } most ? $"{p.Uses} of {most}" : p.Uses.ToString(CultureInfo.InvariantCulture);

    private static string Networks(PassView p) => p.MostNetworks is { } most ? $"{p.Networks} of {most}" : p.Networks.ToString(CultureInfo.InvariantCulture);

    private static string? Said(string? text) => text == "none" ? null : text;

    private static int? Number(string? text, string option) => text is null or "none" ? null
        : int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number
        : throw new UsageException($"{option} takes a number, or none.");
}
