using WarySentinel.Core.Letters;

namespace WarySentinel.Core.SiteFile;

public sealed partial class SiteFileCommands
{
    private void Letters(IReadOnlyList<Written<WrittenTemplate>>? entries)
    {
        var old = LetterBook.Of(policy).All.ToDictionary(t => t.Name, StringComparer.Ordinal);
        if (entries is null)
        {
            beside += old.Count;
            return;
        }

        var seen = new HashSet<string>(StringComparer.Ordinal);
        foreach (var entry in entries)
        {
            var (kind, language, words) = entry.Draft;
            var put = TemplateCommands.Put(policy, kind ?? "", language ?? "", words, templates);
            if (put.Problem is { } problem)
            {
                problem.Faults.ToList().ForEach(f => BadWords(entry, f));
                continue;
            }

            var name = put.Value.Value.Name;
            if (!seen.Add(name))
            {
                Bad(entry, new Fault("kind", Wording.Of("apply.twice", name)));
            }
            else if (put.Value.ToStore.Changes.Count == 0)
            {
                same++;
            }
            else
            {
                changes.AddRange(put.Value.ToStore.Changes);
                notes.Add(put.Value.ToStore with { Changes = [] });
                Tell("letters", name, old.TryGetValue(name, out var was) ? TemplateCommands.DraftOf(was) : null, TemplateCommands.DraftOf(put.Value.Value));
            }
        }

        foreach (var gone in old.Values.Where(t => !seen.Contains(t.Name)))
        {
            if (!prune)
            {
                beside++;
                continue;
            }

            changes.Add(new TemplateDropped(gone.Kind, gone.Language));
            Tell("letters", gone.Name, TemplateCommands.DraftOf(gone), null);
        }
    }

    /// <summary>A fault inside a text of several lines stands so many lines beneath the one that the text begins on.</summary>
    private void BadWords(Written<WrittenTemplate> entry, Fault fault)
    {
        var text = fault.Field == "html" ? entry.Draft.Words.Html : fault.Field == "text" ? entry.Draft.Words.Text : null;
        if (fault.Line is { } inner && text?.Contains('\n', StringComparison.Ordinal) == true)
        {
            // As it is usually written, two columns to the right of the names.
            var (line, column) = (entry.Place(fault.Field).Line + inner, entry.Place("").Column + 1 + (fault.Column ?? 1));
            faults.Add(fault with { Line = line, Column = column, Message = fault.Message.At(line, column) });
            return;
        }

        Bad(entry, fault);
    }
}
