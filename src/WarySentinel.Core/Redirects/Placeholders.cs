using System.Text.RegularExpressions;

namespace WarySentinel.Core.Redirects;

/// <summary>What stands in a redirect's address for something that is known when it is followed. Immutable.</summary>
/// <param name="Member">The user name of the member, or their id where they have none; null for whoever is none.</param>
/// <param name="Role">The key of their first role; null where they have none.</param>
/// <param name="ReturnTo">The page that they wanted; null where they wanted none.</param>
/// <param name="Home">The home page of the first of their roles that has one they may open; null where none has.</param>
public sealed partial record Placeholders(string? Member, string? Role, string? ReturnTo, string? Home)
{
    /// <summary>The names that there are.</summary>
    public static readonly IReadOnlyList<string> Names = ["member", "role", "return_to", "home"];

    /// <summary>What is wrong with the place-holders of an address, for its writer; null where nothing is.</summary>
    public static (string Code, object?[] Values)? FaultOf(string address)
    {
        foreach (Match match in Braced().Matches(address))
        {
            var name = match.Groups[1].Value;
            if (!Names.Contains(name))
            {
                var near = Nearest.To(name, Names);
                return near is null ? ("placeholder-unknown", [name, string.Join(", ", Names.Select(n => $"{{{n}}}"))]) : ("placeholder-near", [name, near]);
            }

            // Whole pages: what stands before or behind them would make other pages of them. In a query they are a value.
            if (name is "home" or "return_to" && address != match.Value && !address[..match.Index].Contains('?', StringComparison.Ordinal))
            {
                return ("placeholder-alone", [name]);
            }
        }

        return address.Replace("{member}", "m", StringComparison.Ordinal).Replace("{role}", "r", StringComparison.Ordinal)
            .Replace("{return_to}", "/", StringComparison.Ordinal).Replace("{home}", "/", StringComparison.Ordinal) is var plain
            && StaysHere(plain) ? null : ("redirect-form", []);
    }

    /// <summary>The address with all in place; null where something that it needs is not known, or it would not stay on this site.</summary>
    public string? In(string address)
    {
        var missing = false;
        var whole = Braced().Replace(address, match =>
        {
            var value = match.Groups[1].Value switch { "member" => Member, "role" => Role, "return_to" => ReturnTo, "home" => Home, _ => null };
            missing |= value is null;
            return value is null ? "" : address == match.Value ? value : Uri.EscapeDataString(value);
        });
        return missing || !StaysHere(whole) ? null : whole;
    }

    private static bool StaysHere(string address) => Catalogue.ReturnTo.IsOnThisSite(address);

    [GeneratedRegex(@"\{([^{}]*)\}")]
    private static partial Regex Braced();
}
