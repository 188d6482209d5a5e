using System.CommandLine;
using System.CommandLine.Help;
using WarySentinel.Cli;
using WarySentinel.Cli.Audio;
using WarySentinel.Cli.Catalogue;
using WarySentinel.Cli.Check;
using WarySentinel.Cli.Facts;
using WarySentinel.Cli.Entries;
using WarySentinel.Cli.Files;
using WarySentinel.Cli.Gates;
using WarySentinel.Cli.Insights;
using WarySentinel.Cli.Letters;
using WarySentinel.Cli.Hosted;
using WarySentinel.Cli.Pages;
using WarySentinel.Cli.Orders;
using WarySentinel.Cli.Passwords;
using WarySentinel.Cli.People;
using WarySentinel.Cli.Prices;
using WarySentinel.Cli.Redirects;
using WarySentinel.Cli.SetUp;
using WarySentinel.Cli.SiteFile;
using WarySentinel.Cli.Sweep;

var root = new RootCommand(
    "wary: say who may see what on your site, and check it. "
    + "Exit codes: 0 done or yes, 1 the answer is no, 2 wrong usage, 3 not found, 4 conflict, 5 service unreachable.");
// What Windows calls help would be offered wherever a shell completes.
foreach (var alias in (string[])["/h", "/?", "-?"])
{
    root.Options.OfType<HelpOption>().Single().Aliases.Remove(alias);
}

root.Options.Add(Globals.Url);
root.Options.Add(Globals.Token);
root.Options.Add(Globals.Json);
root.Subcommands.Add(GateVerbs.Build());
root.Subcommands.Add(PasswordVerbs.Build());
root.Subcommands.Add(PassVerbs.Build());
root.Subcommands.Add(ItemVerbs.Build());
root.Subcommands.Add(MemberVerbs.Build());
root.Subcommands.Add(RequestVerbs.Build());
foreach (var noun in FormVerbs.Build())
{
    root.Subcommands.Add(noun);
}

root.Subcommands.Add(TermsVerbs.Build());
root.Subcommands.Add(DirectoryVerbs.Build());
root.Subcommands.Add(GrantVerbs.Build());
root.Subcommands.Add(OrganisationVerbs.Build());
root.Subcommands.Add(SyncVerbs.Build());
root.Subcommands.Add(LetterVerbs.Build());
foreach (var noun in FactVerbs.Build())
{
    root.Subcommands.Add(noun);
}

root.Subcommands.Add(SessionVerbs.Build());
root.Subcommands.Add(TokenVerbs.Build());
foreach (var verb in DecisionVerbs.Build())
{
    root.Subcommands.Add(verb);
}

root.Subcommands.Add(RedirectVerbs.Build());
root.Subcommands.Add(EntryVerbs.Build());
root.Subcommands.Add(OrderVerbs.Build());
root.Subcommands.Add(EndVerbs.Build());
root.Subcommands.Add(FulfilmentVerbs.Build());
root.Subcommands.Add(FulfilmentVerbs.BuildSources());
root.Subcommands.Add(AreaVerbs.Build());
root.Subcommands.Add(ShowVerbs.Build());
root.Subcommands.Add(PriceVerbs.Build());
foreach (var command in CouponVerbs.Build())
{
    root.Subcommands.Add(command);
}

root.Subcommands.Add(LinkVerbs.Build());
root.Subcommands.Add(TextVerbs.Build());
root.Subcommands.Add(SetUpVerbs.Build());
root.Subcommands.Add(VisitorPageVerbs.Build());
root.Subcommands.Add(LookVerbs.Build());
root.Subcommands.Add(SectionVerbs.Build());
root.Subcommands.Add(PageVerbs.Build());
foreach (var verb in SweepVerbs.Build().Concat(SiteFileVerbs.Build()))
{
    root.Subcommands.Add(verb);
}

foreach (var verb in SiteVerbs.Build())
{
    root.Subcommands.Add(verb);
}

foreach (var command in BackupVerbs.Build().Concat(ShellVerbs.Build(root)))
{
    root.Subcommands.Add(command);
}

return await Run.MainAsync(root, args);
