/**
 * A rule of ESLint: what a file exports is documented. A type that is made from a value of the same file, by `typeof` or by its schema, is
 * documented by that value.
 */
export const documented = {
  meta: {
    type: 'suggestion',
    schema: [],
    messages: { missing: '{{name}} is exported and has no docstring: say what it is, its units and its errors.' },
  },
  create(context) {
    const { sourceCode } = context;
    const madeFromValue = (node) => node.type === 'TSTypeAliasDeclaration' && /\btypeof\b/.test(sourceCode.getText(node.typeAnnotation));
    return {
      ExportNamedDeclaration(node) {
        const { declaration } = node;
        if (!declaration || madeFromValue(declaration)) return;
        const comments = sourceCode.getCommentsBefore(node);
        if (comments.some((c) => c.type === 'Block' && c.value.startsWith('*'))) return;
        // overloads are documented once, above the first
        const before = sourceCode.ast.body[sourceCode.ast.body.indexOf(node) - 1];
        const name = (declaration.id ?? declaration.declarations[0].id).name;
        if (before?.declaration?.id?.name === name) return;
        context.report({ node, messageId: 'missing', data: { name } });
      },
    };
  },
};
