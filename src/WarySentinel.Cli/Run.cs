using System.CommandLine;
using System.Net;
using System.Text.Json;
using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract;

namespace WarySentinel.Cli;

/// <summary>The exit codes of every command.</summary>
internal static class Exit
{
    public const int Done = 0;
    public const int No = 1;
    public const int Usage = 2;
    public const int NotFound = 3;
    public const int Conflict = 4;
    public const int Unreachable = 5;
}

/// <summary>The options that every command takes.</summary>
internal static class Globals
{
    public static readonly Option<string?> Url = new("--url")
    { Description = "Address of the console and API (WARY_URL; http://127.0.0.1:7401).", Recursive = true };
    public static readonly Option<string?> Token = new("--token") { Description = "Access token (WARY_TOKEN).", Recursive = true };
    public static readonly Option<bool> Json = new("--json") { Description = "Print JSON for programs.", Recursive = true };
}

/// <summary>Something is wrong with how a command was called.</summary>
internal sealed class UsageException(string message) : Exception(message);

/// <summary>What a command is given: the client, the output, the words typed.</summary>
internal sealed class Call(ParseResult parsed, SentinelClient client, Output output, CancellationToken stop)
{
    public SentinelClient Client { get; } = client;

    public Output Out { get; } = output;

    public CancellationToken Stop { get; } = stop;

    public T? Get<T>(Option<T> option) => parsed.GetValue(option);

    public T Get<T>(Argument<T> argument) => parsed.GetValue(argument)!;

    public bool Said(Option option) => parsed.GetResult(option) is { Implicit: false };

    public IReadOnlyList<string> Many(Option<string[]> option) =>
        [.. (parsed.GetValue(option) ?? []).SelectMany(v => v.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))];

    /// <summary>A date to be stored: what was said, none where that is <c>never</c>, and what is there where nothing was.</summary>
    public string? Dated(Option<string?> option, DateTimeOffset? there) => Get(option) switch
    {
        "never" => null,
        { } said => said,
        _ => there?.ToString("O", System.Globalization.CultureInfo.InvariantCulture),
    };

    /// <summary>What is there before it is changed; null where there is nothing of that name.</summary>
    public static async Task<(T? Old, string? Tag)> OldAsync<T>(Task<(T Value, string? Tag)> asked)
        where T : class
    {
        try
        {
            return await asked;
        }
        catch (SentinelException missing) when (missing.Status == HttpStatusCode.NotFound)
        {
            return (null, null);
        }
    }
}

/// <summary>Runs commands and turns what goes wrong into a line and an exit code.</summary>
internal static class Run
{
    public static async Task<int> MainAsync(RootCommand root, string[] args)
    {
        // An address of data begins with the sign that elsewhere asks for a file of options.
        var parsed = root.Parse(args, new ParserConfiguration { ResponseFileTokenReplacer = null });
        if (args.Length == 0)
        {
            // Whoever types nothing else asks what there is.
            return await root.Parse(["--help"]).InvokeAsync();
        }

        if (parsed.Errors.Count > 0)
        {
            foreach (var error in parsed.Errors)
            {
                await Console.Error.WriteLineAsync("wary: " + error.Message);
            }

            await Console.Error.WriteLineAsync("Try: wary --help");
            return Exit.Usage;
        }

        return await parsed.InvokeAsync();
    }

    /// <summary>Gives a command its action.</summary>
    public static Command Does(this Command command, Func<Call, Task<int>> action)
    {
        command.SetAction(async (parsed, stop) =>
        {
            var output = new Output(parsed.GetValue(Globals.Json));
            try
            {
                var (url, token) = Connection.Find(parsed.GetValue(Globals.Url), parsed.GetValue(Globals.Token));
                using var client = new SentinelClient(url, token, Language.OfReader);
                return await action(new Call(parsed, client, output, stop));
            }
            catch (UsageException fault)
            {
                return output.Fail(Exit.Usage, "usage", fault.Message, []);
            }
            catch (SentinelException refused)
            {
                return output.Fail(CodeOf(refused), refused.Code, refused.Message, refused.Faults);
            }
            catch (HttpRequestException fault)
            {
                return output.Fail(Exit.Unreachable, "unreachable", $"The service does not answer: {fault.Message}", []);
            }
            catch (TaskCanceledException) when (!stop.IsCancellationRequested)
            {
                var seconds = SentinelClient.ConnectPatience.TotalSeconds;
                return output.Fail(Exit.Unreachable, "unreachable", $"The service took no connection within {seconds:0} seconds.", []);
            }
            catch (Exception fault) when (fault is IOException or UnauthorizedAccessException or JsonException)
            {
                return output.Fail(Exit.Usage, "file", fault.Message, []);
            }
        });
        return command;
    }

    private static int CodeOf(SentinelException refused) => refused.Status switch
    {
        HttpStatusCode.NotFound => Exit.NotFound,
        HttpStatusCode.Conflict or HttpStatusCode.PreconditionFailed => Exit.Conflict,
        >= HttpStatusCode.InternalServerError => Exit.Unreachable,
        _ => Exit.Usage,
    };
}

/// <summary>The language that refusals are read in.</summary>
internal static class Language
{
    /// <summary>As the environment says it (POSIX: <c>LC_ALL</c>, <c>LC_MESSAGES</c>, <c>LANG</c>): <c>de_CH.UTF-8</c> is <c>de-CH</c>.</summary>
    public static string? OfReader => new[] { "LC_ALL", "LC_MESSAGES", "LANG" }.Select(Environment.GetEnvironmentVariable)
        .FirstOrDefault(v => v is { Length: > 0 }) is { } set && set.Split('.', '@')[0].Replace('_', '-') is var tag && tag is not ("C" or "POSIX")
        && tag.All(c => char.IsAsciiLetterOrDigit(c) || c == '-') ? tag : null;
}

/// <summary>Where the service is, and the token for it.</summary>
internal static class Connection
{
    private static string File => Path.Combine(
        Environment.GetEnvironmentVariable("XDG_CONFIG_HOME") is { Length: > 0 } set ? set
        : Path.Combine(Environment.GetFolderPath(Environment.SpecialFolder.UserProfile), ".config"), "wary", "config.json");

    public static (Uri Url, string? Token) Find(string? url, string? token)
    {
        var kept = System.IO.File.Exists(File) ? JsonSerializer.Deserialize<Kept>(System.IO.File.ReadAllText(File), JsonSerializerOptions.Web) : null;
        var address = url ?? Environment.GetEnvironmentVariable("WARY_URL") ?? kept?.Url ?? "http://127.0.0.1:7401";
        if (!Uri.TryCreate(address, UriKind.Absolute, out var parsed) || parsed.Scheme is not ("http" or "https"))
        {
            throw new UsageException($"“{address}” is not an http or https address.");
        }

        return (parsed, token ?? Environment.GetEnvironmentVariable("WARY_TOKEN") ?? kept?.Token);
    }

    /// <summary>Keeps address and token for later calls, readable by this user alone.</summary>
    public static string Keep(Uri url, string token)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(File)!);
        using var file = new FileStream(File, new FileStreamOptions
        { Mode = FileMode.Create, Access = FileAccess.Write, UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite });
        JsonSerializer.Serialize(file, new Kept(url.ToString(), token), JsonSerializerOptions.Web);
        return File;
    }

    private sealed record Kept(string? Url, string? Token);
}

/// <summary>Prints for people or, with <c>--json</c>, for programs.</summary>
internal sealed class Output(bool json)
{
    internal static readonly JsonSerializerOptions Written = new(ApiJson.Options)
    { WriteIndented = true, Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private readonly IAnsiConsole console = Console.IsOutputRedirected ? Wide() : AnsiConsole.Console;

    public bool IsJson => json;

    /// <summary>The value as JSON, or else what the other prints.</summary>
    public int Give(object value, Action<IAnsiConsole> print)
    {
        if (json)
        {
            Console.Out.WriteLine(JsonSerializer.Serialize(value, value.GetType(), Written));
        }
        else
        {
            print(console);
        }

        return Exit.Done;
    }

    public int Table<T>(IReadOnlyList<T> rows, string empty, params (string Head, Func<T, string> Cell)[] columns) => Give(rows, to =>
    {
        if (rows.Count == 0)
        {
            to.MarkupLine($"[grey]{Markup.Escape(empty)}[/]");
            return;
        }

        var table = new Table().Border(TableBorder.Simple).BorderColor(Color.Grey);
        foreach (var (head, _) in columns)
        {
            table.AddColumn(new TableColumn($"[bold]{Markup.Escape(head)}[/]").NoWrap());
        }

        table.Columns[^1].NoWrap = false;
        foreach (var row in rows)
        {
            table.AddRow([.. columns.Select(c => Markup.Escape(c.Cell(row)))]);
        }

        to.Write(table);
    });

    /// <summary>A line that must stay whole, such as an address or a token.</summary>
    public int Whole(object value, string line) => Give(value, _ => Console.Out.WriteLine(line));

    public int Say(object value, string line) => Give(value, to => to.MarkupLine(line));

    /// <summary>Tells of something wrong on standard error.</summary>
    public int Fail(int exit, string code, string message, IReadOnlyList<Fault> faults)
    {
        if (json)
        {
            Console.Error.WriteLine(JsonSerializer.Serialize(new { code, detail = message, errors = faults }, Written));
            return exit;
        }

        if (faults is [{ Line: not null } only])
        {
            Console.Error.WriteLine("wary: " + Place(only) + only.Message);
            return exit;
        }

        Console.Error.WriteLine("wary: " + message);
        foreach (var fault in faults.Where(f => f.Message != message))
        {
            Console.Error.WriteLine("  " + Place(fault) + fault.Message);
        }

        return exit;
    }

    /// <summary>Where a fault is.</summary>
    public static string Place(Fault fault) => fault switch
    {
        { Field: "audience", Column: { } column } => $"audience, column {column}: ",
        // A text of one line says its column itself.
        { Field: "entry" or "link" or "price" or "beside" or "points", Column: not null } => fault.Field + ": ",
        { Line: { } line, Column: { } column } => $"line {line}, column {column}: ",
        { Line: { } line } => $"line {line}: ",
        _ => fault.Field + ": ",
    };

    /// <summary>A table printed into a pipe is as wide as it needs.</summary>
    private static IAnsiConsole Wide()
    {
        var made = AnsiConsole.Create(new AnsiConsoleSettings
        {
            Ansi = AnsiSupport.No, ColorSystem = ColorSystemSupport.NoColors, Out = new AnsiConsoleOutput(Console.Out),
            Interactive = InteractionSupport.No
        });
        made.Profile.Width = 4000;
        return made;
    }
}
