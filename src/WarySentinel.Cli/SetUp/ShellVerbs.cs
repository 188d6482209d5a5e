using System.CommandLine;
using System.Globalization;
using System.Text;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.SetUp;

/// <summary><c>wary completion bash|zsh|fish</c> and <c>wary man</c>: both from the texts of the commands themselves.</summary>
internal static class ShellVerbs
{
    private const string Bash = """
        # Completion of wary for bash: . <(wary completion bash)
        _wary() {
          local IFS=$'\n' current=${COMP_WORDS[COMP_CWORD]}
          COMPREPLY=($(compgen -W "$(wary "[suggest:${COMP_POINT}]" "${COMP_LINE}" 2>/dev/null)" -- "$current"))
        }
        complete -o default -F _wary wary
        """;

    private const string Zsh = """
        #compdef wary
        # Completion of wary for zsh: . <(wary completion zsh)
        _wary() {
          local -a all
          all=("${(@f)$(wary "[suggest:${#BUFFER}]" "$BUFFER" 2>/dev/null)}")
          compadd -a all
        }
        compdef _wary wary
        """;

    private const string Fish = """
        # Completion of wary for fish: wary completion fish | source
        complete -c wary -f -a '(wary "[suggest:"(string length -- (commandline -cp))"]" (commandline -cp) 2>/dev/null)'
        """;

    private static readonly Argument<string> Shell = new("shell") { Description = "bash, zsh or fish." };

    public static IEnumerable<Command> Build(RootCommand root)
    {
        var completion = With(new Command("completion", "Print what a shell needs to complete commands and options: . <(wary completion bash)."), Shell);
        Shell.CompletionSources.Add("bash", "zsh", "fish");
        yield return completion.Does(call => Task.FromResult(call.Get(Shell) switch
        {
            "bash" => call.Out.Whole(new { script = Bash }, Bash),
            "zsh" => call.Out.Whole(new { script = Zsh }, Zsh),
            "fish" => call.Out.Whole(new { script = Fish }, Fish),
            var other => throw new UsageException($"“{other}” is no shell that is known: bash, zsh, fish."),
        }));
        yield return new Command("man", "Print the manual page (man(7)): wary man | man -l -.").Does(call =>
        {
            var page = ManualOf(root);
            return Task.FromResult(call.Out.Whole(new { page }, page));
        });
    }

    private static string ManualOf(RootCommand root)
    {
        var page = new StringBuilder();
        page.Append(".TH WARY 1 \"\" \"Wary Sentinel\" \"User Commands\"\n.SH NAME\nwary \\- say who may see what on a site, and check it\n");
        page.Append(".SH SYNOPSIS\n.B wary\n.I noun verb\n[\n.I options\n]\n.SH DESCRIPTION\n").Append(Roff(root.Description ?? "")).Append('\n');
        Options(page.Append(".SH OPTIONS OF ALL COMMANDS\n"), root.Options);
        page.Append(".SH COMMANDS\n");
        foreach (var command in root.Subcommands.Where(c => !c.Hidden))
        {
            Describe(page, command, "wary");
        }

        page.Append(".SH ENVIRONMENT\n.TP\n.B WARY_URL\nAddress of the console and API.\n.TP\n.B WARY_TOKEN\nAccess token.\n.TP\n.B NO_COLOR\nNo colours.\n");
        return page.ToString().TrimEnd();
    }

    private static void Describe(StringBuilder page, Command command, string before)
    {
        var name = $"{before} {command.Name}";
        var arguments = string.Concat(command.Arguments.Where(a => !a.Hidden).Select(
            a => string.Create(CultureInfo.InvariantCulture, $" \\fI{Roff(a.Name)}\\fR{(a.Arity.MaximumNumberOfValues > 1 ? " ..." : "")}")));
        page.Append(".SS ").Append(Roff(name)).Append(arguments).Append('\n').Append(Roff(command.Description ?? "")).Append('\n');
        foreach (var argument in command.Arguments.Where(a => !a.Hidden && a.Description is not null))
        {
            page.Append(".TP\n.I ").Append(Roff(argument.Name)).Append('\n').Append(Roff(argument.Description!)).Append('\n');
        }

        Options(page, command.Options);
        foreach (var inner in command.Subcommands.Where(c => !c.Hidden))
        {
            Describe(page, inner, name);
        }
    }

    private static void Options(StringBuilder page, IEnumerable<Option> options)
    {
        foreach (var option in options.Where(o => !o.Hidden && o.Name is not ("--help" or "--version")))
        {
            var value = option.ValueType == typeof(bool) ? "" : $" \\fI{Roff(option.Name.TrimStart('-'))}\\fR";
            page.Append(".TP\n\\fB").Append(Roff(option.Name)).Append("\\fR").Append(value).Append('\n').Append(Roff(option.Description ?? "")).Append('\n');
        }
    }

    /// <summary>A text as it is written in a manual page: no sign of it is a command of the page.</summary>
    private static string Roff(string text)
    {
        var escaped = text.Replace("\\", "\\e", StringComparison.Ordinal).Replace("-", "\\-", StringComparison.Ordinal)
            .Replace("\n", " ", StringComparison.Ordinal);
        return escaped.StartsWith('.') || escaped.StartsWith('\'') ? "\\&" + escaped : escaped;
    }
}
