using System.CommandLine;
using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract.People;
using static WarySentinel.Cli.Gates.GateVerbs;
using static WarySentinel.Cli.People.MemberVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary member show|suspend|reinstate|end|erase|export|sign-out|notes|note|drop-note</c>: one member's account.</summary>
internal static class AccountVerbs
{
    private static readonly Option<string?> Words = new("--words") { Description = "What they read of it when they sign in." };
    private static readonly Option<bool> TellThem = new("--tell") { Description = "Write them a last letter that says so." };
    private static readonly Option<bool> Yes = new("--yes") { Description = "Do not ask." };
    private static readonly Option<FileInfo?> To = new("--to") { Description = "The file to write; standard output unless said." };
    private static readonly Argument<string> Text = new("text") { Description = "What to note; - reads it from standard input." };
    private static readonly Argument<Guid> Note = new("note") { Description = "The id that the notes show." };

    public static void AddTo(Command member)
    {
        void Add(string name, string what, Func<Call, Task<int>> act, params Option[] options) =>
            member.Subcommands.Add(With(With(new Command(name, what), Email), options).Does(act));
        Add("suspend", "Keep a member out for now: signed out at once, a guest to every gate.", call => StatusAsync(call, "suspended"), Words);
        Add("reinstate", "Let a suspended or ended member back in.", call => StatusAsync(call, "active"));
        Add("end", "End an account: its holder stays out until somebody lets them back in.", call => StatusAsync(call, "closed"), Words);
        Add("erase", "Remove a member with all that is known of them. Nothing brings them back.", EraseAsync, Yes, TellThem);
        Add("export", "Write all that is known of a member, as JSON, for them to have.", ExportAsync, To);
        Add("sign-out", "Sign a member out everywhere.", SignOutAsync);
        Add("notes", "What staff noted of a member.", NotesAsync);
        member.Subcommands.Add(With(With(new Command("note", "Note something of a member; they never read it."), Email), Text).Does(NoteAsync));
        member.Subcommands.Add(With(With(new Command("drop-note", "Drop a note."), Email), Note).Does(DropNoteAsync));
    }

    public static async Task<int> ShowAsync(Call call)
    {
        var member = (await call.Client.MemberAsync(call.Get(Email), call.Stop)).Value;
        var sessions = await call.Client.SessionsAsync(call.Get(Email), call.Stop);
        var notes = await call.Client.NotesAsync(call.Get(Email), call.Stop);
        var organisations = await call.Client.OrganisationsOfAsync(call.Get(Email), call.Stop);
        var keys = await call.Client.OutsideKeysAsync(call.Get(Email), call.Stop);
        return call.Out.Give(member, to => Print(to, member, organisations, keys, sessions, notes));
    }

    private static void Print(
        IAnsiConsole to, MemberView member, IReadOnlyList<MembershipView> organisations, IReadOnlyList<OutsideKeyView> keys,
        IReadOnlyList<SessionView> sessions, IReadOnlyList<NoteView> notes)
    {
        void Line(string name, string text) => to.MarkupLine($"[grey]{name,-10}[/] {Markup.Escape(text)}");
        to.MarkupLine($"[bold]{Markup.Escape(member.Name)}[/] [grey]{Markup.Escape(member.Email)}[/]");
        Line("account", member.Cause is { } cause ? $"{member.Status} since {Day(cause.At)}, by {cause.By}" : member.Status);
        if (member.Cause?.Words is { } words)
        {
            Line("is told", words);
        }

        Line("joined", Day(member.CreatedAt));
        Line("last seen", member.SeenAt is { } seen ? Day(seen) : "never");
        Line("holds", Held(member, "nothing now"));
        if (member.ByRule.Count > 0)
        {
            Line("by rule", string.Join(", ", member.ByRule.Select(g => "group:" + g)));
        }

        foreach (var one in organisations)
        {
            Line(one.Manages ? "manages" : "belongs to", one.Title + (one.Over ? " (ended)" : ""));
        }

        foreach (var key in keys)
        {
            Line("known as", $"{key.Key} in {key.Source}");
        }

        foreach (var session in sessions)
        {
            Line("signed in", $"{session.Purpose}, since {Day(session.CreatedAt)}, from {session.Network ?? "?"}");
        }

        foreach (var note in notes)
        {
            Line("note", $"{Day(note.At)} {note.By}: {note.Text}");
        }
    }

    private static async Task<int> StatusAsync(Call call, string status) => MemberVerbs.Print(
        call, await call.Client.SetStatusAsync(call.Get(Email), status, status == "active" ? null : call.Get(Words), call.Stop));

    private static async Task<int> EraseAsync(Call call)
    {
        var member = (await call.Client.MemberAsync(call.Get(Email), call.Stop)).Value;
        if (!call.Get(Yes) && !Typed.Agrees($"Erase {member.Name} ({member.Email}) for good?"))
        {
            await Console.Error.WriteLineAsync("wary: nobody is erased. --yes erases without asking.");
            return Exit.No;
        }

        await call.Client.EraseMemberAsync(member.Id.ToString(), call.Get(TellThem), call.Stop);
        return call.Out.Say(
            new { erased = member.Id }, $"Erased [bold]{Markup.Escape(member.Email)}[/]. What was done to them stays in the trail, under a tag.");
    }

    private static async Task<int> ExportAsync(Call call)
    {
        var data = System.Text.Json.JsonSerializer.Serialize(await call.Client.MemberDataAsync(call.Get(Email), call.Stop), Output.Written);
        if (call.Get(To) is not { } file)
        {
            await Console.Out.WriteLineAsync(data);
            return Exit.Done;
        }

        await File.WriteAllTextAsync(file.FullName, data + "\n", call.Stop);
        return call.Out.Say(new { written = file.FullName }, $"Wrote {Markup.Escape(file.FullName)}.");
    }

    private static async Task<int> SignOutAsync(Call call)
    {
        var ended = await call.Client.EndSessionsAsync(call.Get(Email), call.Stop);
        return call.Out.Say(new { ended }, ended == 0 ? "They were signed in nowhere." : $"Signed out in {ended} {(ended == 1 ? "place" : "places")}.");
    }

    private static async Task<int> NotesAsync(Call call) => call.Out.Table(
        await call.Client.NotesAsync(call.Get(Email), call.Stop), "No notes.",
        ("at", n => Day(n.At)), ("by", n => n.By), ("note", n => n.Text), ("id", n => n.Id.ToString()));

    private static async Task<int> NoteAsync(Call call)
    {
        var text = call.Get(Text) == "-" ? await Console.In.ReadToEndAsync(call.Stop) : call.Get(Text);
        return call.Out.Say(await call.Client.AddNoteAsync(call.Get(Email), text, call.Stop), "Noted.");
    }

    private static async Task<int> DropNoteAsync(Call call)
    {
        await call.Client.DropNoteAsync(call.Get(Email), call.Get(Note), call.Stop);
        return call.Out.Say(new { dropped = call.Get(Note) }, "Dropped the note.");
    }
}
