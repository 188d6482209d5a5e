using System.CommandLine;
using Spectre.Console;
using WarySentinel.Contract.People;
using static WarySentinel.Cli.Gates.GateVerbs;
using static WarySentinel.Cli.People.MemberVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary member invite|link|links|withdraw|password|letters</c>: letters with links, and passwords made up.</summary>
internal static class InviteVerbs
{
    private static readonly Argument<string[]> People = new("people")
    { Description = "Addresses; with names: \"Ada Quill <ada@quill.example>\".", Arity = ArgumentArity.ZeroOrMore };

    private static readonly Option<FileInfo?> File = new("--file") { Description = "A file with an address a line, as above." };
    private static readonly Option<string?> From = new("--from") { Description = "When what they hold begins." };
    private static readonly Option<string?> Until = new("--until") { Description = "When what they hold ends." };
    private static readonly Option<string?> Words = new("--words") { Description = "Words of your own in the letter." };
    private static readonly Option<string?> Language = new("--language") { Description = "The language that they are written to in." };
    private static readonly Option<string?> Form = new("--form") { Description = "The form that they fill in as they come, by its key." };
    private static readonly Option<string?> Purpose = new("--purpose")
    { Description = "invitation, set-password or confirm; what fits the account unless said." };

    private static readonly Option<string?> WishedLanguage = new("--language") { Description = "A language such as de; - for the site's." };
    private static readonly Option<bool?> Only = new("--unsubscribed") { Description = "true: no letters but those that have to be; false: all." };

    public static void AddTo(Command member)
    {
        member.Subcommands.Add(With(
            With(new Command("invite", "Make accounts for people and write to each: they choose their own password."), People), File, Roles, Groups, Plans,
            From, Until, Words, Language, Form).Does(InviteAsync));
        member.Subcommands.Add(With(With(new Command("link", "Send a member a letter with a link to set a password, or the invitation again."), Email),
            Purpose, Words).Does(async call =>
            {
                var link = await call.Client.SendLinkAsync(call.Get(Email), new LinkDraft(call.Get(Purpose), call.Get(Words)), call.Stop);
                return call.Out.Say(link, $"A letter is on its way to {link.Address}; its link works once, until {Moment(link.Until)}.");
            }));
        member.Subcommands.Add(With(new Command("links", "The links that a member was sent, and what became of them."), Email)
            .Does(async call => call.Out.Table(
            await call.Client.LinksAsync(call.Get(Email), call.Stop), "No link was sent.", ("purpose", l => l.Purpose), ("to", l => l.Address),
            ("sent", l => Moment(l.CreatedAt)), ("until", l => Moment(l.Until)), ("state", l => l.State))));
        member.Subcommands.Add(With(new Command("withdraw", "Take back what links a member was sent and did not use."), Email).Does(async call =>
        {
            await call.Client.WithdrawLinksAsync(call.Get(Email), call.Stop);
            return call.Out.Say(new { withdrawn = call.Get(Email) }, "Its links work no longer.");
        }));
        member.Subcommands.Add(With(new Command("password", "Make up a password for a member, and tell it once. They are signed out everywhere."), Email).Does(
            async call => Tell(call, await call.Client.GeneratePasswordAsync(call.Get(Email), call.Stop))));
        member.Subcommands.Add(With(new Command("terms", "What a member said to the site's terms, the newest first."), Email).Does(async call => call.Out.Table(
            await call.Client.ConsentsAsync(call.Get(Email), call.Stop), "They were never asked.", ("terms", c => c.Terms),
            ("version", c => c.Number.ToString(System.Globalization.CultureInfo.InvariantCulture)), ("said", c => c.Agreed ? "agreed" : "refused"),
            ("at", c => c.At.ToString("yyyy-MM-dd HH:mm", System.Globalization.CultureInfo.InvariantCulture)), ("language", c => c.Language),
            ("where", c => c.Where))));
        member.Subcommands.Add(With(
            With(new Command("letters", "Say in which language a member is written to, and whether they get more than has to be."), Email),
            WishedLanguage, Only).Does(
            async call => Print(call, await call.Client.SetLettersAsync(
                call.Get(Email), new LetterWish(call.Get(WishedLanguage) == "-" ? "" : call.Get(WishedLanguage), call.Get(Only)), call.Stop))));
    }

    /// <summary>Tells a password that was made up.</summary>
    internal static int Tell(Call call, GeneratedPasswordView made) => call.Out.Give(made, to =>
    {
        to.MarkupLine($"[bold]{Markup.Escape(made.Password.Reveal())}[/]");
        to.MarkupLine($"[grey]{made.Bits} random bits, for {Markup.Escape(made.Member.Email)}. It is not kept and not told again.[/]");
    });

    private static async Task<int> InviteAsync(Call call)
    {
        var people = (call.Get(People) ?? []).ToList();
        if (call.Get(File) is { } file)
        {
            people.AddRange((await System.IO.File.ReadAllLinesAsync(file.FullName, call.Stop)).Where(l => l.Trim().Length > 0));
        }

        var told = await call.Client.InviteAsync(
            new InvitationsDraft(
                people, call.Many(Roles), call.Many(Groups), call.Many(Plans), call.Get(From), call.Get(Until), call.Get(Words), call.Get(Language),
                call.Get(Form)),
            call.Stop);
        call.Out.Table(told, "Nobody was named.", ("e-mail", i => i.Email), ("invited", i => i.Invited ? "yes" : "no"), ("why not", i => i.Problem ?? ""));
        return told.All(i => i.Invited) ? 0 : 1;
    }

    private static string Moment(DateTimeOffset at) => at.ToString("yyyy-MM-dd HH:mm 'UTC'", System.Globalization.CultureInfo.InvariantCulture);
}
