using System.Net;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Access;

/// <summary>The keys that an expression may name.</summary>
public interface IKnownKeys
{
    /// <summary>Whether the key exists.</summary>
    bool Knows(FactKind kind, string key);

    /// <summary>The keys from which the nearest is offered.</summary>
    IEnumerable<string> KeysOf(FactKind kind);
}

/// <summary>Reads audience expressions: <c>any := all {"or" all}; all := unary {"and" unary}; unary := ["not"] (atom | "(" any ")")</c>.</summary>
public sealed class AudienceParser
{
    private const int MostCharacters = 4000;
    private readonly string text;
    private readonly IKnownKeys? known;
    private readonly bool stored;
    private readonly List<(string Word, int At)> tokens = [];
    private int next;
    private int depth;

    private AudienceParser(string text, IKnownKeys? known, bool stored) => (this.text, this.known, this.stored) = (text, known, stored);

    /// <summary>The expression, or a problem whose fault carries the column, from 1.</summary>
    /// <param name="text">The expression as typed.</param>
    /// <param name="known">The keys that exist; null to take every key.</param>
    public static Outcome<Audience> Parse(string text, IKnownKeys? known = null) => Parse(new AudienceParser(text, known, false));

    /// <summary>Reads what was stored, also by earlier versions, which wrote <c>not not</c> without brackets and knew no bound on what they wrote.</summary>
    public static Outcome<Audience> ParseStored(string text) => Parse(new AudienceParser(text, null, true));

    private static Outcome<Audience> Parse(AudienceParser parser)
    {
        try
        {
            return parser.Run();
        }
        catch (Located located)
        {
            var said = Wording.Of("audience.at", located.Column, located.Said);
            return new Problem(ProblemKind.Invalid, located.Code, said, [new Fault("audience", located.Said, 1, located.Column)]);
        }
    }

    private Audience Run()
    {
        if (!stored && text.Length > MostCharacters)
        {
            throw new Located("audience-too-long", MostCharacters, Wording.Of("audience.too-long", MostCharacters));
        }

        Split();
        if (tokens.Count == 0)
        {
            throw new Located("audience-empty", 1, Wording.Of("audience.empty"));
        }

        var read = Any();
        if (next < tokens.Count)
        {
            var (word, at) = tokens[next];
            throw new Located("audience-syntax", at, Wording.Of(word == ")" ? "audience.extra-bracket" : "audience.join", word));
        }

        // What is written down may be longer than what was typed: an address alone becomes a range.
        return stored || read.ToString()!.Length <= MostCharacters ? read
            : throw new Located("audience-too-long", MostCharacters, Wording.Of("audience.too-long", MostCharacters));
    }

    private void Split()
    {
        var i = 0;
        while (i < text.Length)
        {
            var c = text[i];
            if (char.IsWhiteSpace(c))
            {
                i++;
            }
            else if (c is '(' or ')')
            {
                tokens.Add((c.ToString(), ++i));
            }
            else
            {
                var start = i;
                while (i < text.Length && !char.IsWhiteSpace(text[i]) && text[i] is not ('(' or ')'))
                {
                    i++;
                }

                tokens.Add((text[start..i], start + 1));
            }
        }
    }

    private Audience Any() => Joined("or", All);

    private Audience All() => Joined("and", Unary);

    private Audience Joined(string word, Func<Audience> part)
    {
        var parts = new List<Audience> { part() };
        while (next < tokens.Count && tokens[next].Word == word)
        {
            next++;
            parts.Add(part());
        }

        return parts.Count == 1 ? parts[0] : new Audience.Many(word == "and", Shallow(parts));
    }

    /// <summary>The parts, where something around them is not yet too deep.</summary>
    private static List<Audience> Shallow(List<Audience> parts) => parts.TrueForAll(p => p.Depth < Audience.Deepest) ? parts
        : throw new Located("audience-too-deep", 1, Wording.Of("audience.too-deep", Audience.Deepest));

    private Audience Unary()
    {
        if (next < tokens.Count && tokens[next].Word == "not")
        {
            next++;
            if (stored && next < tokens.Count && tokens[next].Word == "not" && next < Audience.Deepest)
            {
                return new Audience.Not(Shallow([Unary()])[0]);
            }

            if (next < tokens.Count && tokens[next].Word == "not")
            {
                throw new Located("audience-syntax", tokens[next].At, Wording.Of("audience.twice-not"));
            }

            return new Audience.Not(Shallow([Operand()])[0]);
        }

        return Operand();
    }

    private Audience Operand()
    {
        if (next >= tokens.Count)
        {
            throw new Located("audience-syntax", text.TrimEnd().Length + 1, Wording.Of("audience.ends"));
        }

        var (word, at) = tokens[next++];
        if (word == "(")
        {
            if (++depth > Audience.Deepest)
            {
                throw new Located("audience-too-deep", at, Wording.Of("audience.too-deep", Audience.Deepest));
            }

            var inner = Any();
            if (next >= tokens.Count || tokens[next].Word != ")")
            {
                var where = next < tokens.Count ? tokens[next].At : text.TrimEnd().Length + 1;
                throw new Located("audience-bracket", where, Wording.Of("audience.open-bracket", at));
            }

            next++;
            depth--;
            return inner;
        }

        return Atom(word, at);
    }

    private Audience Atom(string word, int at)
    {
        if (word is ")" or "and" or "or")
        {
            throw new Located("audience-syntax", at, Wording.Of("audience.misplaced", word));
        }

        foreach (var atom in Enum.GetValues<PlainAtom>())
        {
            if (word == Audience.Plain.NameOf(atom))
            {
                return new Audience.Plain(atom);
            }
        }

        var colon = word.IndexOf(':', StringComparison.Ordinal);
        if (colon < 0)
        {
            throw UnknownWord(word, at);
        }

        var key = word[(colon + 1)..];
        var keyAt = at + colon + 1;
        if (word[..colon] == "network")
        {
            return Range(key, keyAt);
        }

        return FactNames.TryParse(word[..colon], out var kind) ? Keyed(kind, key, keyAt) : throw UnknownWord(word, at);
    }

    private static Audience.Network Range(string key, int at)
    {
        // Only as it is written down: 10.1 is no address to people, though some read it as 10.0.0.1; a zone (fe80::1%2) means nothing elsewhere.
        if (!key.Contains('%', StringComparison.Ordinal) && IPNetwork.TryParse(key, out var range) && IPAddress.TryParse(key.Split('/')[0], out var written)
            && written.Equals(range.BaseAddress))
        {
            return new Audience.Network(range);
        }

        if (!key.Contains('%', StringComparison.Ordinal) && IPAddress.TryParse(key, out var single)
            && (key.Contains(':', StringComparison.Ordinal) || key.Count('.') == 3))
        {
            return new Audience.Network(new IPNetwork(single, single.AddressFamily == System.Net.Sockets.AddressFamily.InterNetwork ? 32 : 128));
        }

        throw new Located("audience-network", at, Wording.Of("audience.network", key));
    }

    private Audience.Fact Keyed(FactKind kind, string key, int at)
    {
        var name = FactNames.NameOf(kind);
        if (key.Length == 0)
        {
            throw new Located("audience-syntax", at, Wording.Of("audience.no-key", name));
        }

        if (kind is FactKind.Member)
        {
            key = key.ToLowerInvariant();
        }

        if (known is not null && !known.Knows(kind, key))
        {
            var nearest = Nearest.To(key, known.KeysOf(kind));
            throw new Located(
                "unknown-" + name, at, nearest is null ? Wording.Of("audience.unknown-key", name, key)
                : Wording.Of("audience.unknown-key-near", name, key, nearest));
        }

        return new Audience.Fact(kind, key);
    }

    private static Located UnknownWord(string word, int at)
    {
        var words = Enum.GetValues<PlainAtom>().Select(Audience.Plain.NameOf)
            .Concat(Enum.GetValues<FactKind>().Select(k => FactNames.NameOf(k) + ":")).Append("network:").Concat(["and", "or", "not"]).ToList();
        var colon = word.IndexOf(':', StringComparison.Ordinal);
        var nearest = Nearest.To(colon < 0 ? word : word[..(colon + 1)], words);
        return new Located(
            "audience-word", at, nearest is null ? Wording.Of("audience.unknown-word", word) : Wording.Of("audience.unknown-word-near", word, nearest));
    }

    private sealed class Located(string code, int column, Wording said) : Exception(said.Key)
    {
        public Wording Said { get; } = said;

        public string Code { get; } = code;

        public int Column { get; } = column;
    }
}
